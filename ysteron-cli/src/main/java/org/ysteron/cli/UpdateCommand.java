package org.ysteron.cli;

import java.util.Map;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.Update;
import org.ysteron.expr.Expression;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.text.SqlValues;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron update}. */
@Command(
    name = "update",
    customSynopsis = "ysteron update TABLE --set ASSIGNMENTS --where CONDITION [OPTIONS]",
    description = "Update rows of a table.",
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron update tide.readings --set \"level_cm = level_cm + 12\" --where \"gauge_id = 'ORR-07'\"")
final class UpdateCommand extends LakeCommand {
  @Mixin private RowsOptions rows;

  @Option(
      names = {"-s", "--set"},
      required = true,
      paramLabel = "ASSIGNMENTS",
      description = "Assignments, such as \"level_cm = level_cm + 12, quality = 'shifted'\".")
  private String assignments;

  @Option(names = "--only-changed", description = "Do not write rows whose values stay the same.")
  private boolean onlyDifferent;

  @Mixin private ChangeOptions change;
  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    String statement = "UPDATE " + rows.table() + " SET " + assignments + rows.clause();
    Table target = write.applyTo(opened, statement).table(rows.table());
    Update update = dryRun.on(target).update().where(rows.condition(target.schema()));
    Map<String, Expression> values =
        SqlValues.assignments(assignments, target.schema(), Optional.empty());
    for (Map.Entry<String, Expression> set : values.entrySet()) {
      update = update.set(set.getKey(), set.getValue());
    }
    if (rows.serials().isPresent()) {
      update = update.whereSerial(rows.serials().get());
    }
    if (onlyDifferent) {
      update = update.onlyDifferent();
    }
    WriteResult result = update.style(change.style()).run();
    out().println(ChangeOptions.report(result, rows.table(), dryRun));
  }
}
