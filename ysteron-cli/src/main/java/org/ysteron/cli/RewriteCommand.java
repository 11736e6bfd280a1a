package org.ysteron.cli;

import org.ysteron.Lake;
import org.ysteron.Rewrite;
import org.ysteron.Table;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron rewrite}. */
@Command(
    name = "rewrite",
    description =
        "Move rows to new files by the newest layout: some files, or those of old layouts.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron rewrite tide.readings --older-layouts --note \"by day\"")
final class RewriteCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "Only files that may hold such rows; they are moved as a whole.")
  private String where;

  @Option(names = "--older-layouts", description = "Only files of layouts before the newest.")
  private boolean older;

  @Mixin private RehearseOption rehearse;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, "rewrite " + table).table(table);
    Rewrite rewrite = rehearse.on(target).rewrite();
    rewrite = older ? rewrite.ofOlderLayouts() : rewrite;
    if (where != null) {
      rewrite = rewrite.where(SqlCondition.parse(where, target.schema()));
    }
    WriteResult result = rewrite.run();
    if (result.report().filesRewritten() == 0) {
      out().println("No file had to be moved.");
      return;
    }
    String counts =
        "%s to %s (%s)"
            .formatted(
                Listing.count(result.report().filesRewritten(), "file", "files"),
                Listing.count(result.report().filesAdded(), "file", "files"),
                Listing.bytes(result.report().bytesWritten()));
    out()
        .println(
            rehearse.isOn()
                ? RehearseOption.NOTHING + "The rows of " + counts + " would be moved."
                : "Moved the rows of %s: version %d."
                    .formatted(counts, result.committed().get().versions().get(target.id())));
  }
}
