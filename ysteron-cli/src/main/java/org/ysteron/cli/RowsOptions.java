package org.ysteron.cli;

import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.sql.SqlCondition;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Which rows of a table are changed; all of them only when that is said. */
final class RowsOptions {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "Which rows: an SQL search condition.")
  private String where;

  @Option(names = "--all", description = "All rows.")
  private boolean all;

  String table() {
    return table;
  }

  /** The condition as it ends a statement. */
  String clause() {
    return where == null ? "" : " WHERE " + where;
  }

  /** The condition of the change. */
  Condition condition(Schema schema) {
    if (where == null && !all) {
      throw new InvalidInputException(
          "Which rows? Give --where CONDITION, or --all if every row is meant. Nothing was changed.");
    }
    if (where != null && all) {
      throw new InvalidInputException("Give --where or --all, not both. Nothing was changed.");
    }
    return where == null ? Condition.all() : SqlCondition.parse(where, schema);
  }
}
