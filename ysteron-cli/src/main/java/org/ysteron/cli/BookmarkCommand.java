package org.ysteron.cli;

import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.error.InvalidInputException;
import org.ysteron.report.Bookmark;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron bookmark}. */
@Command(
    name = "bookmark",
    description = {
      "List bookmarks, or give a name to a version.",
      "A bookmark names a version of a table, or the state of the whole lake, and keeps it from expiring. Use it in place of a version, as in --at @before-the-fix."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron bookmark before-the-fix tide.readings --at 28")
final class BookmarkCommand extends LakeCommand {
  @Spec private CommandSpec spec;

  @Parameters(
      index = "0",
      arity = "0..1",
      paramLabel = "NAME",
      description = "Name of the bookmark (default: list all bookmarks).")
  private String name;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "TABLE",
      description = "Table name (default: the whole lake).")
  private String table;

  @Mixin private AtOption at;

  @Option(names = "--move", description = "Move an existing bookmark to another version.")
  private boolean move;

  @Option(names = "--drop", description = "Remove the bookmark; the version can expire then.")
  private boolean drop;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    if (name == null) {
      list(opened.bookmarks());
      return;
    }
    if (drop && (move || at.isGiven())) {
      throw new CommandLine.ParameterException(
          spec.commandLine(), "Use --drop without --move and --at.");
    }
    LakeHandle lake = write.applyTo(opened, "bookmark " + name);
    if (drop) {
      checkTable(lake);
      lake.dropBookmark(name);
      out().println("Removed bookmark " + name + ". Its version can expire now.");
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

  /** A table that is given is that of the bookmark. */
  private void checkTable(LakeHandle lake) {
    Optional<Bookmark> mark =
        lake.bookmarks().stream().filter(known -> known.name().equals(name)).findFirst();
    if (table != null && mark.isPresent() && !mark.get().table().equals(Optional.of(table))) {
      throw new InvalidInputException(
          "The bookmark %s is of %s, not of table %s. Nothing was changed; leave the table out to drop it."
              .formatted(
                  name, mark.get().table().map(of -> "table " + of).orElse("the lake"), table));
    }
  }

  private void ofTable(LakeHandle lake) {
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
      out().println("The lake has no bookmarks.");
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
