package org.ysteron.cli;

import java.util.List;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.internal.text.Visible;
import org.ysteron.option.Alteration;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron compare}. */
@Command(
    name = "compare",
    description = {
      "Say how the columns, constraints and layouts of two versions of a table, or of two tables, differ.",
      "It is said as alterations that make the first into the second."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron compare tide.readings --from 4 --to 9")
final class CompareCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "OTHER",
      description = "Another table; columns are the same when their names are.")
  private String other;

  @Option(names = "--from", paramLabel = "VERSION", description = "A version (default: the first).")
  private Long from;

  @Option(names = "--to", paramLabel = "VERSION", description = "A version (default: the newest).")
  private Long to;

  @Mixin private Listing.Options listing;

  @Override
  void run(Lake opened) {
    Table first = opened.table(table);
    TableView before =
        other == null || from != null ? at(first, from == null ? 0L : from) : first.now();
    TableView after = at(other == null ? first : opened.table(other), to);
    List<Alteration> changes = before.alterationsTo(after);
    if (listing.isText()) {
      out()
          .println(
              "%s, version %d  →  %s, version %d"
                  .formatted(before.name(), before.version(), after.name(), after.version()));
      changes.forEach(change -> out().println(marked(change)));
      if (changes.isEmpty()) {
        out().println("Nothing differs.");
      }
      return;
    }
    Listing list = listing.listing(out(), "mark", "alteration");
    changes.forEach(change -> list.row(mark(change), change.toString()));
    list.end();
  }

  private static TableView at(Table table, Long version) {
    return version == null ? table.now() : table.at(version);
  }

  private static String mark(Alteration change) {
    if (change instanceof Alteration.AddColumn || change instanceof Alteration.AddCheck) {
      return "+";
    }
    boolean gone =
        change instanceof Alteration.DropColumn || change instanceof Alteration.DropCheck;
    return gone ? "-" : "~";
  }

  private static String marked(Alteration change) {
    String color =
        switch (mark(change)) {
          case "+" -> "green";
          case "-" -> "red";
          default -> "yellow";
        };
    return Ansi.AUTO.string("@|" + color + " " + mark(change) + "|@ ")
        + Visible.of(change.toString());
  }
}
