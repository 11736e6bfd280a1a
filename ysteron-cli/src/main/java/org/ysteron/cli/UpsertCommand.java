package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.Merge;
import org.ysteron.Table;
import org.ysteron.data.Schema;
import org.ysteron.report.WriteResult;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron upsert}. */
@Command(
    name = "upsert",
    description = {
      "Insert rows, or update the rows with the same key, in one commit.",
      "Columns that are not in the files keep their values."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron upsert tide.readings late.csv --last-wins --note \"late packets\"")
final class UpsertCommand extends LakeCommand {
  @Mixin private SourceOptions source;
  @Mixin private ChangeOptions change;
  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, source.statement("upsert")).table(source.table());
    Schema columns = source.columns(target);
    Merge merge = dryRun.on(target).upsert(source.source(columns, source.rules(target)));
    WriteResult result = source.applyTo(merge.style(change.style())).run();
    DriftOptions.tell(result.grown(), out());
    out().println(ChangeOptions.report(result, source.table(), dryRun));
  }
}
