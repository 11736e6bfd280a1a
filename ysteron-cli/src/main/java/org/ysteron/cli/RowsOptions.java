package org.ysteron.cli;

import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Which rows of a table are changed; all of them only when that is said. */
final class RowsOptions {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "SQL search condition that selects the rows.")
  private String where;

  @Option(
      names = "--serial",
      split = ",",
      paramLabel = "NUMBERS",
      description = "Only rows with these serials; 'duplicates' lists them.")
  private Set<Long> serials;

  @Option(names = "--all", description = "All rows of the table.")
  private boolean all;

  String table() {
    return table;
  }

  /** The condition as it ends a statement. */
  String clause() {
    String rows = where == null ? "" : " WHERE " + where;
    return serials == null ? rows : rows + " -- with serials " + serials;
  }

  /** The serials of the rows; empty when they do not matter. */
  Optional<Set<Long>> serials() {
    return Optional.ofNullable(serials);
  }

  /** The condition of the change. */
  Condition condition(Schema schema) {
    if (where == null && !all && serials == null) {
      throw new InvalidInputException(
          "Which rows? Give --where CONDITION, --serial NUMBERS, or --all if every row is meant. Nothing was changed.");
    }
    if ((where != null || serials != null) && all) {
      throw new InvalidInputException("Give --all or which rows, not both. Nothing was changed.");
    }
    return where == null ? Condition.all() : SqlCondition.parse(where, schema);
  }
}
