package org.ysteron.sql.catalog;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOrderBy;
import org.apache.calcite.sql.SqlWith;
import org.apache.calcite.sql.SqlWithItem;
import org.apache.calcite.sql.ddl.SqlCreateView;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.ysteron.LakeView;
import org.ysteron.sql.grammar.LakeOperators;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;

/**
 * The statements of a text: settings and temporary views, which hold for the statements behind
 * them, and a query at the end. For one text.
 */
public final class Statements {
  private final SqlText text;
  private final Map<String, SqlCreateView> views = new LinkedHashMap<>();
  private final LakeView newest;
  private LakeView lake;

  private Statements(LakeView lake, SqlText text, Map<String, SqlCreateView> views) {
    this.newest = lake;
    this.lake = lake;
    this.text = text;
    views.forEach((name, view) -> this.views.put(name, SqlNodes.copy(view)));
  }

  /**
   * A query with what the statements before it say.
   *
   * @param query the query, whose temporary views stand in a WITH before it
   * @param lake the state that it reads
   * @param explains whether the plan is wanted in place of the rows
   * @param measures whether the plan is wanted with what its steps did
   */
  public record Last(SqlNode query, LakeView lake, boolean explains, boolean measures) {}

  /** {@code points}: of the newest state of the lake, which {@code lake} is. */
  public static Last of(List<SqlNode> statements, LakeView lake, SqlText text, Points points) {
    Statements all = new Statements(lake, text, Map.of());
    for (SqlNode statement : statements.subList(0, statements.size() - 1)) {
      all.does(statement, points);
    }
    return all.last(statements.get(statements.size() - 1));
  }

  /** A query of a session that has temporary views. */
  public static Last of(
      SqlNode query, LakeView lake, SqlText text, Map<String, SqlCreateView> views) {
    return new Statements(lake, text, views).last(SqlNodes.copy(query));
  }

  private void does(SqlNode statement, Points points) {
    if (SqlNodes.is(statement, LakeOperators.SET_SYSTEM_TIME)) {
      SqlCall call = (SqlCall) statement;
      lake = call.operandCount() == 0 ? newest : points.lake(call.operand(0));
    } else if (statement instanceof SqlCreateView view) {
      add(view);
    } else {
      throw text.wrong(
          "Only SET SYSTEM_TIME and CREATE TEMPORARY VIEW can stand before a query.",
          statement.getParserPosition(),
          null);
    }
  }

  private void add(SqlCreateView view) {
    add(view, views, text);
  }

  /** Adds a view to others, by its name. */
  public static void add(SqlCreateView view, Map<String, SqlCreateView> views, SqlText text) {
    if (view.name.names.size() != 1) {
      throw text.wrong(
          "A temporary view has a name without a namespace.", view.name.getParserPosition(), null);
    }
    if (views.containsKey(view.name.getSimple()) && !view.getReplace()) {
      throw text.wrong(
          "There is a temporary view %s already. Write CREATE OR REPLACE."
              .formatted(view.name.getSimple()),
          view.name.getParserPosition(),
          null);
    }
    views.put(view.name.getSimple(), view);
  }

  private Last last(SqlNode statement) {
    boolean measures = SqlNodes.is(statement, LakeOperators.EXPLAIN_ANALYZE);
    boolean explains = measures || SqlNodes.is(statement, LakeOperators.EXPLAIN);
    SqlNode query = explains ? ((SqlCall) statement).operand(0) : statement;
    if (!query.isA(SqlKind.QUERY)) {
      throw text.wrong(
          "This is not a query. The last statement is SELECT, WITH, VALUES, TABLE or EXPLAIN.",
          query.getParserPosition(),
          null);
    }
    return new Last(views.isEmpty() ? query : withViews(query), lake, explains, measures);
  }

  private SqlNode withViews(SqlNode query) {
    SqlParserPos at = query.getParserPosition();
    if (query instanceof SqlOrderBy ordered) {
      return new SqlOrderBy(
          at, withViews(ordered.query), ordered.orderList, ordered.offset, ordered.fetch);
    }
    SqlNodeList items = new SqlNodeList(at);
    for (SqlCreateView view : views.values()) {
      SqlIdentifier name = view.name;
      items.add(
          new SqlWithItem(
              view.getParserPosition(),
              name,
              view.columnList,
              view.query,
              SqlLiteral.createBoolean(false, at)));
    }
    return new SqlWith(at, items, query);
  }
}
