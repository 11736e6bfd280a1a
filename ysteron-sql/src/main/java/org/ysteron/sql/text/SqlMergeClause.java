package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import org.ysteron.Merge;
import org.ysteron.data.Schema;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.option.MergeAction;

/**
 * Reads a clause of a merge: {@code take}, {@code take a, b}, {@code set a = expression, …} or
 * {@code delete}, with {@code if condition} behind it. {@code source.a} is column a of the source.
 *
 * @param action what the clause does
 * @param condition when it applies; empty for always
 */
public record SqlMergeClause(MergeAction action, Optional<Condition> condition) {

  /** Adds a clause with a condition to a merge. */
  public interface Conditional {
    /** The merge with the clause. */
    Merge add(Merge merge, Condition condition, MergeAction action);
  }

  /**
   * Parses a clause for rows of the table.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static SqlMergeClause matched(String text, Schema table, Schema source) {
    return parse(text, table, table, source, false);
  }

  /** Parses a clause for rows of the source only, whose columns need no {@code source} before. */
  public static SqlMergeClause unmatched(String text, Schema table, Schema source) {
    return parse(text, table, source, source, true);
  }

  private static SqlMergeClause parse(
      String text, Schema table, Schema named, Schema source, boolean ofSource) {
    SqlTokens tokens = new SqlTokens(text);
    MergeAction action;
    if (tokens.take("delete")) {
      action = Merge.delete();
    } else if (tokens.take("take")) {
      List<String> columns = new ArrayList<>();
      while (!tokens.isAtEnd() && !tokens.is("if") && (columns.isEmpty() || tokens.take(","))) {
        columns.add(ExpressionReader.fold(source.struct(), tokens.name()));
      }
      action = columns.isEmpty() ? Merge.takeAll() : Merge.take(columns.toArray(String[]::new));
    } else if (tokens.take("set")) {
      action = set(tokens.before("if"), table, named, source, ofSource);
    } else {
      throw tokens.wrong(
          "'%s' is not a merge action. Use take, take a,b, set a = expression or delete, with ' if CONDITION' after it if needed."
              .formatted(text.strip()));
    }
    Optional<Condition> condition = Optional.empty();
    if (tokens.take("if")) {
      Condition parsed = SqlCondition.parse(tokens.before(";"), named, source);
      condition = Optional.of(ofSource ? ofSource(parsed) : parsed);
    }
    if (!tokens.isAtEnd()) {
      throw tokens.wrong("Only if and a condition can follow here.");
    }
    return new SqlMergeClause(action, condition);
  }

  private static MergeAction set(
      String assignments, Schema table, Schema named, Schema source, boolean ofSource) {
    Map<String, Expression> values = new LinkedHashMap<>();
    SqlValues.assignments(assignments, table, named, Optional.of(source))
        .forEach((column, value) -> values.put(column, ofSource ? ofSource(value) : value));
    return Merge.set(values);
  }

  private static Expression ofSource(Expression value) {
    return value.withColumns(column -> Column.ofSource(column.path()));
  }

  private static Condition ofSource(Condition condition) {
    return (Condition) ofSource((Expression) condition);
  }

  /** The merge with this clause, which goes in with its condition or as it is. */
  public Merge addTo(
      Merge merge, Conditional conditional, BiFunction<Merge, MergeAction, Merge> plain) {
    return condition
        .map(test -> conditional.add(merge, test, action))
        .orElseGet(() -> plain.apply(merge, action));
  }
}
