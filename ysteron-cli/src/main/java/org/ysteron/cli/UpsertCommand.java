package org.ysteron.cli;

import org.ysteron.Lake;
import org.ysteron.Merge;
import org.ysteron.Table;
import org.ysteron.data.Schema;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron upsert}. */
@Command(
    name = "upsert",
    description = {
      "Update the rows of a table that files have, too, and insert the others, in one commit.",
      "Columns that the files lack keep their values."
    })
final class UpsertCommand extends LakeCommand {
  @Mixin private SourceOptions source;
  @Mixin private ChangeOptions change;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, source.statement("upsert")).table(source.table());
    Schema columns = source.columns(target.schema());
    Merge merge = target.upsert(source.source(columns)).style(change.style());
    source.applyTo(merge);
    out().println(ChangeOptions.report(merge.run(), source.table()));
  }
}
