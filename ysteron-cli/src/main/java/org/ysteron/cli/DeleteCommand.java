package org.ysteron.cli;

import org.ysteron.Lake;
import org.ysteron.Table;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron delete}. */
@Command(name = "delete", description = "Delete rows of a table.")
final class DeleteCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "Which rows: an SQL search condition.")
  private String where;

  @Option(names = "--all", description = "All rows.")
  private boolean all;

  @Mixin private ChangeOptions change;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    String statement = "DELETE FROM " + table + (where == null ? "" : " WHERE " + where);
    Table target = write.applyTo(opened, statement).table(table);
    var condition = ChangeOptions.condition(where, all, target.schema());
    out()
        .println(
            ChangeOptions.report(
                target.delete().where(condition).style(change.style()).run(), table));
  }
}
