package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.Rewrite;
import org.ysteron.Table;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron rewrite}. */
@Command(
    name = "rewrite",
    description = "Rewrite data files in the newest layout.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron rewrite tide.readings --older-layouts --note \"by day\"")
final class RewriteCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description =
          "Only files that may hold rows with this condition; a file is rewritten as a whole.")
  private String where;

  @Option(names = "--older-layouts", description = "Only files with an older layout.")
  private boolean older;

  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, "rewrite " + table).table(table);
    Rewrite rewrite = dryRun.on(target).rewrite();
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
            dryRun.isOn()
                ? DryRunOption.NOTHING + "The rows of " + counts + " would be moved."
                : "Moved the rows of %s: version %d."
                    .formatted(counts, result.committed().get().versions().get(target.id())));
  }
}
