package org.ysteron.sql.text;

import java.util.List;
import java.util.Optional;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;

/**
 * Turns an SQL search condition into a {@link Condition} on a schema. Names are compared exactly,
 * or without regard to case when only one column fits.
 */
public final class SqlCondition {
  private SqlCondition() {}

  /**
   * Parses a condition and checks that it fits the schema.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Condition parse(String text, Schema schema) {
    SqlText sql = new SqlText(text, 0);
    return sql.bounded(() -> of(sql.expression(), sql, schema));
  }

  /** The condition that a parsed expression is. */
  static Condition of(SqlNode node, SqlText text, Schema schema) {
    ExpressionReader reader = new ExpressionReader(text, schema, Optional.empty());
    Condition condition = reader.condition(node);
    for (Condition part : tests(condition)) {
      reader.checkBound(part, node);
    }
    return condition;
  }

  /** A condition on rows of a table and of the source of a merge. */
  static Condition of(SqlNode node, SqlText text, Schema schema, Schema source) {
    ExpressionReader reader = new ExpressionReader(text, schema, Optional.of(source));
    Condition condition = reader.condition(node);
    reader.check(condition, node);
    return condition;
  }

  private static List<Condition> tests(Condition condition) {
    if (condition instanceof Condition.And and) {
      return and.conditions().stream().flatMap(part -> tests(part).stream()).toList();
    }
    if (condition instanceof Condition.Or or) {
      return or.conditions().stream().flatMap(part -> tests(part).stream()).toList();
    }
    return condition instanceof Condition.Not not ? tests(not.part()) : List.of(condition);
  }

  /** The value of a literal in a column definition, or an expression for its type. */
  static @Nullable Object defaultIn(SqlNode node, Type type, SqlText text) {
    ExpressionReader reader = new ExpressionReader(text, Schema.NO_COLUMNS, Optional.empty());
    if (ExpressionReader.isLiteral(node)) {
      return reader.literal(node);
    }
    return reader.checkedValue(node, type);
  }
}
