package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.regex.Pattern;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.ysteron.Merge;
import org.ysteron.data.Schema;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.option.MergeAction;
import org.ysteron.sql.grammar.LakeOperators;

/**
 * Reads a clause of a merge: {@code take}, {@code take a, b}, {@code set a = expression, …} or
 * {@code delete}, with {@code if condition} behind it. {@code source.a} is column a of the source.
 *
 * @param action what the clause does
 * @param condition when it applies; empty for always
 */
public record SqlMergeClause(MergeAction action, Optional<Condition> condition) {
  private static final String BEFORE = "WHEN MATCHED THEN\n";
  private static final Pattern ACTION = Pattern.compile("(?i)\\s*(take|set|delete)\\b");

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
    SqlText sql = new SqlText(text, 1);
    return sql.bounded(() -> read(parsed(text, sql), sql, table, named, source, ofSource));
  }

  private static SqlCall parsed(String text, SqlText sql) {
    if (!ACTION.matcher(text).lookingAt()) {
      throw sql.wrong(
          "'%s' is not a merge action. Use take, take a,b, set a = expression or delete, with ' if CONDITION' after it if needed."
              .formatted(text.strip()),
          new SqlParserPos(2, 1),
          null);
    }
    SqlCall clause = (SqlCall) sql.statement(BEFORE + text);
    if (!clause.getOperator().equals(LakeOperators.WHEN_MATCHED)) {
      throw sql.wrong("This is more than one clause of a merge.", clause.getParserPosition(), null);
    }
    return clause;
  }

  private static SqlMergeClause read(
      SqlCall clause, SqlText text, Schema table, Schema named, Schema source, boolean ofSource) {
    SqlCall what = clause.operand(1);
    MergeAction action;
    if (what.getOperator().equals(LakeOperators.DELETE_ROW)) {
      action = Merge.delete();
    } else if (what.getOperator().equals(LakeOperators.TAKE_ROW)) {
      List<String> columns = new ArrayList<>();
      ((SqlNodeList) what.operand(0))
          .forEach(
              name ->
                  columns.add(
                      ExpressionReader.fold(source.struct(), ((SqlIdentifier) name).getSimple())));
      action = columns.isEmpty() ? Merge.takeAll() : Merge.take(columns.toArray(String[]::new));
    } else {
      Map<String, Expression> values = new LinkedHashMap<>();
      SqlValues.assignments(
              what.operand(0), what.operand(1), text, table, named, Optional.of(source))
          .forEach((column, value) -> values.put(column, ofSource ? ofSource(value) : value));
      action = Merge.set(values);
    }
    Optional<Condition> condition = Optional.empty();
    if (clause.operand(0) != null) {
      Condition parsed = SqlCondition.of(clause.operand(0), text, named, source);
      condition = Optional.of(ofSource ? ofSource(parsed) : parsed);
    }
    return new SqlMergeClause(action, condition);
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
