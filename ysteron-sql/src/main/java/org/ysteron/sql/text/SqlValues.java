package org.ysteron.sql.text;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlUpdate;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;

/**
 * Turns SQL value expressions into {@link Expression}s. {@code source.x} is column x of a merge's
 * source.
 */
public final class SqlValues {
  private static final String BEFORE = "UPDATE t SET\n";

  private SqlValues() {}

  /**
   * Parses {@code level_cm = level_cm + 12, quality = 'shifted'}.
   *
   * @param source the columns of a source that expressions may name
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Map<String, Expression> assignments(
      String sql, Schema table, Optional<Schema> source) {
    SqlText text = new SqlText(sql, 1);
    return text.bounded(() -> assignments(sql, text, table, table, source));
  }

  private static Map<String, Expression> assignments(
      String sql, SqlText text, Schema table, Schema named, Optional<Schema> source) {
    if (!(text.statement(BEFORE + sql) instanceof SqlUpdate update)
        || update.getCondition() != null) {
      throw new InvalidInputException(
          "Give assignments, as in \"level_cm = level_cm + 12, quality = 'shifted'\".");
    }
    return assignments(
        update.getTargetColumnList(), update.getSourceExpressionList(), text, table, named, source);
  }

  /**
   * Reads parsed assignments.
   *
   * @param named the schema whose names the values use
   */
  static Map<String, Expression> assignments(
      SqlNodeList columns,
      SqlNodeList given,
      SqlText text,
      Schema table,
      Schema named,
      Optional<Schema> source) {
    ExpressionReader reader = new ExpressionReader(text, named, source);
    Map<String, Expression> values = new LinkedHashMap<>();
    for (int i = 0; i < columns.size(); i++) {
      SqlIdentifier column = (SqlIdentifier) columns.get(i);
      Field set = column(column, table, text);
      String name = set.name();
      SqlNode value = given.get(i);
      if (values.put(name, reader.checkedValue(value, set.type())) != null) {
        throw text.wrong("Column " + name + " is set twice.", column.getParserPosition(), null);
      }
    }
    return values;
  }

  /** The column that an assignment names, exactly, or when only one differs by case. */
  public static Field column(SqlIdentifier named, Schema table, SqlText text) {
    String name = ExpressionReader.fold(table.struct(), named.getSimple());
    try {
      return table.resolve(Schema.path(List.of(name))).get(0);
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), named.getParserPosition(), e);
    }
  }

  /** Parses an expression over a row of the table and one of the source. */
  public static Expression parse(String sql, Schema table, Optional<Schema> source) {
    SqlText text = new SqlText(sql, 0);
    return text.bounded(
        () -> new ExpressionReader(text, table, source).checkedValue(text.expression()));
  }
}
