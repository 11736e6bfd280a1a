package org.ysteron.sql.change;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.apache.calcite.sql.JoinConditionType;
import org.apache.calcite.sql.JoinType;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlJoin;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.apache.calcite.sql.SqlSelect;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.LakeTable;
import org.ysteron.sql.grammar.LakeOperators;

/**
 * Plans a MERGE as one query: the table joined with the source, of each pair what the first clause
 * does that applies to it. For one statement.
 */
final class MergePlan {
  private static final String THERE = "row of source";

  private final ChangeText text;
  private final SqlCall merge;
  private final Schema schema;
  private final List<Clause> clauses = new ArrayList<>();

  /** A clause: which pairs it is for, its condition, and what it does. */
  record Clause(
      SqlOperator kind,
      @Nullable SqlNode condition,
      FoundRows.Action action,
      List<Field> columns,
      List<SqlNode> values) {

    boolean is(SqlOperator other) {
      return kind.equals(other);
    }

    boolean inserts() {
      return action == FoundRows.Action.INSERT;
    }
  }

  MergePlan(ChangeText text, SqlCall merge, Schema schema) {
    this.text = text;
    this.merge = merge;
    this.schema = schema;
    for (SqlNode clause : (SqlNodeList) merge.operand(4)) {
      clauses.add(clause((SqlCall) clause));
    }
  }

  private Clause clause(SqlCall when) {
    SqlOperator kind = when.getOperator();
    SqlCall what = when.operand(1);
    SqlOperator does = what.getOperator();
    boolean isNew = kind.equals(LakeOperators.WHEN_NOT_MATCHED);
    if (does.equals(LakeOperators.DO_NOTHING)) {
      return new Clause(kind, when.operand(0), FoundRows.Action.NOTHING, List.of(), List.of());
    }
    if (does.equals(LakeOperators.INSERT_ROW) != isNew) {
      throw text.wrong(
          isNew
              ? "A row of the source that matches no row of the table can only be inserted, or left by DO NOTHING."
              : "A row of the table can be updated or deleted, or left by DO NOTHING.",
          what);
    }
    if (does.equals(LakeOperators.DELETE_ROW)) {
      return new Clause(kind, when.operand(0), FoundRows.Action.DELETE, List.of(), List.of());
    }
    SqlNodeList named = what.operand(0);
    List<Field> columns = named == null ? schema.columns() : text.columns(named, schema);
    SqlNodeList given = what.operand(1);
    columns = given == null ? List.of() : columns;
    int count = given == null ? 0 : given.size();
    if (columns.size() != count) {
      throw text.wrong(
          "%d columns get values, and there are %d values.".formatted(columns.size(), count), what);
    }
    List<SqlNode> values = new ArrayList<>();
    for (int c = 0; c < count; c++) {
      values.add(text.value(given.get(c), columns.get(c)));
    }
    return new Clause(
        kind,
        when.operand(0),
        isNew ? FoundRows.Action.INSERT : FoundRows.Action.UPDATE,
        columns,
        values);
  }

  /** The columns of the table that clauses give new values. */
  private Set<Field> updated() {
    Set<Field> updated = new LinkedHashSet<>();
    for (Field column : schema.columns()) {
      boolean isSet =
          clauses.stream().anyMatch(one -> !one.inserts() && one.columns.contains(column));
      if (isSet) {
        updated.add(column);
      }
    }
    return updated;
  }

  private boolean has(SqlOperator kind) {
    return clauses.stream().anyMatch(clause -> clause.is(kind));
  }

  /** Whether it may bring keys that the table does not have. */
  boolean bringsKeys() {
    return clauses.stream().anyMatch(Clause::inserts)
        || updated().stream().anyMatch(column -> schema.key().contains(column.name()));
  }

  FoundRows plan(LakeTable table) {
    LakeCatalog catalog = new LakeCatalog(text.lake());
    ChangeText.Target target = text.target(merge.operand(0), merge.operand(1), table, catalog);
    List<Field> updated = List.copyOf(updated());
    SqlParserPos at = merge.getParserPosition();
    SqlNodeList selected = new SqlNodeList(at);
    List<String> names = table.names();
    selected.add(target.column(names.get(names.size() - 2)));
    selected.add(target.column(names.get(names.size() - 1)));
    selected.add(new SqlIdentifier(THERE, at));
    updated.forEach(column -> selected.add(target.column(column.name())));
    for (Clause clause : clauses) {
      if (clause.condition != null) {
        selected.add(target.named(clause.condition));
      }
      clause.values.forEach(value -> selected.add(target.named(value)));
    }
    SqlSelect query =
        new SqlSelect(
            at,
            null,
            selected,
            joined(target),
            null,
            null,
            null,
            null,
            null,
            null,
            null,
            null,
            null);
    return new MergeOutcome(text, schema, clauses, updated, text.planned(query, catalog)).rows();
  }

  private SqlNode joined(ChangeText.Target target) {
    boolean keepsSource = has(LakeOperators.WHEN_NOT_MATCHED);
    boolean keepsTable = has(LakeOperators.WHEN_NOT_IN_SOURCE);
    JoinType type =
        keepsSource
            ? keepsTable ? JoinType.FULL : JoinType.RIGHT
            : keepsTable ? JoinType.LEFT : JoinType.INNER;
    SqlNode on = target.named(merge.<SqlNode>operand(3));
    SqlParserPos at = on.getParserPosition();
    return new SqlJoin(
        at,
        target.from(),
        SqlLiteral.createBoolean(false, at),
        type.symbol(at),
        source(),
        JoinConditionType.ON.symbol(at),
        on);
  }

  /** The source, with a column that is null where there is no row of it. */
  private SqlNode source() {
    SqlNode given = merge.operand(2);
    SqlParserPos at = given.getParserPosition();
    SqlNodeList all = new SqlNodeList(at);
    all.add(SqlIdentifier.star(at));
    all.add(
        SqlStdOperatorTable.AS.createCall(
            at, SqlLiteral.createExactNumeric("1", at), new SqlIdentifier(THERE, at)));
    SqlNode query =
        new SqlSelect(at, null, all, given, null, null, null, null, null, null, null, null, null);
    SqlIdentifier alias =
        given.getKind() == SqlKind.AS
            ? ((SqlCall) given).operand(1)
            : given instanceof SqlIdentifier name
                ? name.getComponent(name.names.size() - 1)
                : new SqlIdentifier("source", at);
    return SqlStdOperatorTable.AS.createCall(at, query, alias);
  }
}
