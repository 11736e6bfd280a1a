package org.ysteron.cli;

import org.ysteron.Delete;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron delete}. */
@Command(
    name = "delete",
    customSynopsis = "ysteron delete TABLE --where CONDITION [OPTIONS]",
    description = "Delete rows of a table.",
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron delete tide.readings --where \"quality = 'test'\" --note \"readings of the workshop\"")
final class DeleteCommand extends LakeCommand {
  @Mixin private RowsOptions rows;

  @Mixin private ChangeOptions change;
  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    String statement = "DELETE FROM " + rows.table() + rows.clause();
    Table target = write.applyTo(opened, statement).table(rows.table());
    var condition = rows.condition(target.schema());
    Delete delete = dryRun.on(target).delete().where(condition).style(change.style());
    if (rows.serials().isPresent()) {
      delete = delete.whereSerial(rows.serials().get());
    }
    out().println(ChangeOptions.report(delete.run(), rows.table(), dryRun));
  }
}
