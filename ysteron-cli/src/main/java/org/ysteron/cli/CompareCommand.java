package org.ysteron.cli;

import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.internal.text.Visible;
import org.ysteron.option.Alteration;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron compare}. */
@Command(
    name = "compare",
    description = {
      "Compare the schemas and layouts of two versions of a table, or of two tables.",
      "Differences are shown as the changes that turn the first into the second."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron compare tide.readings --from 4 --to 9")
final class CompareCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "OTHER",
      description = "Another table to compare with; columns are compared by name.")
  private String other;

  @Spec private CommandSpec spec;

  @Option(
      names = "--from",
      paramLabel = "VERSION|TIME|BOOKMARK",
      description = "First version, as for scan --at (default: version 0).")
  private String from;

  @Option(
      names = "--to",
      paramLabel = "VERSION|TIME|BOOKMARK",
      description = "Second version, as for scan --at (default: the newest).")
  private String to;

  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    Table first = opened.table(table);
    TableView before =
        other == null || from != null
            ? at("--from", first, from == null ? "0" : from)
            : first.now();
    TableView after = at("--to", other == null ? first : opened.table(other), to);
    List<Alteration> changes = before.alterationsTo(after);
    if (listing.isText()) {
      out()
          .println(
              "%s, version %d  →  %s, version %d"
                  .formatted(before.name(), before.version(), after.name(), after.version()));
      changes.forEach(change -> out().println(marked(change)));
      if (changes.isEmpty()) {
        out().println("There are no differences.");
      }
      return;
    }
    Listing list = listing.listing(out(), "mark", "alteration");
    changes.forEach(change -> list.row(mark(change), change.toString()));
    list.end();
  }

  private TableView at(String option, Table table, String version) {
    return version == null ? table.now() : TimeText.view(spec, option, version, null, table);
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
          default -> "magenta";
        };
    return Ansi.AUTO.string("@|" + color + " " + mark(change) + "|@ ")
        + Visible.of(change.toString());
  }
}
