package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.Scan;
import org.ysteron.TableView;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Which rows of which version of which table. */
final class SelectOptions {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "SQL search condition, such as \"level_cm > 500 AND quality = 'good'\".")
  private String where;

  @Option(
      names = "--newest-schema",
      description = "Show an old version with the newest columns instead of its own.")
  private boolean newest;

  @Mixin private AtOption at;

  Scan scan(LakeHandle lake) {
    TableView view = at.view(lake, table);
    view = newest ? view.bySchemaOf(lake.table(table).now()) : view;
    Scan scan = view.scan();
    // Only a condition needs the SQL parser, whose classes take long to load.
    return where == null ? scan : scan.where(SqlCondition.parse(where, view.schema()));
  }
}
