package org.ysteron.cli;

import java.time.temporal.ChronoUnit;
import java.util.List;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.report.Bookmark;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron bookmark}. */
@Command(
    name = "bookmark",
    description = {
      "List bookmarks, or name a version of a table or a state of the lake, so that it does not expire.",
      "A bookmark can stand wherever a version can, behind an @, as in --at @before-the-fix."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron bookmark before-the-fix tide.readings --at 28")
final class BookmarkCommand extends LakeCommand {
  @Parameters(
      index = "0",
      arity = "0..1",
      paramLabel = "NAME",
      description = "The bookmark (default: list them all).")
  private String name;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "TABLE",
      description = "The table (default: the whole lake).")
  private String table;

  @Mixin private AtOption at;

  @Option(names = "--move", description = "Make a bookmark that is there name something else.")
  private boolean move;

  @Option(names = "--drop", description = "Drop the bookmark; what it named may expire then.")
  private boolean drop;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    if (name == null) {
      list(opened.bookmarks());
      return;
    }
    Lake lake = write.applyTo(opened, "bookmark " + name);
    if (drop) {
      lake.dropBookmark(name);
      out().println("Dropped the bookmark " + name + "; what it named may expire now.");
      return;
    }
    if (table != null) {
      ofTable(lake);
    } else if (move) {
      lake.moveBookmark(name, at.time().orElseGet(() -> lake.now().commit().time()));
    } else if (at.time().isPresent()) {
      lake.bookmark(name, at.time().get());
    } else {
      lake.bookmark(name);
    }
    Bookmark made =
        lake.bookmarks().stream()
            .filter(mark -> mark.name().equals(name))
            .findFirst()
            .orElseThrow();
    out()
        .println(
            "The bookmark %s names %s, of entry %d."
                .formatted(
                    name,
                    made.table()
                        .map(of -> of + ", version " + made.version().orElseThrow())
                        .orElse("the lake"),
                    made.entry()));
  }

  private void ofTable(Lake lake) {
    Table of = lake.table(table);
    long version = at.view(lake, table).version();
    if (move) {
      of.moveBookmark(name, version);
    } else {
      of.bookmark(name, version);
    }
  }

  private void list(List<Bookmark> marks) {
    if (marks.isEmpty() && listing.isText()) {
      out().println("There are no bookmarks.");
      return;
    }
    Listing list = listing.listing(out(), "name", "table", "version", "entry", "made");
    for (Bookmark mark : marks) {
      list.row(
          mark.name(),
          mark.table().orElse(listing.isText() ? "(the lake)" : null),
          mark.version().isPresent() ? mark.version().getAsLong() : null,
          mark.entry(),
          mark.made().truncatedTo(ChronoUnit.SECONDS));
    }
    list.end();
  }
}
