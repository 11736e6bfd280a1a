package org.ysteron.sql.plan;

import com.google.common.base.Suppliers;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlDelete;
import org.apache.calcite.sql.SqlDynamicParam;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlInsert;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlSelect;
import org.apache.calcite.sql.SqlUpdate;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.form.Defaults;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.PlannedTable;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ScanStep;
import org.ysteron.sql.run.ValuesStep;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlValues;

/** A statement that changes rows of one table. */
public sealed interface PlannedChange {

  /** The table, with its namespace. */
  String table();

  /**
   * INSERT.
   *
   * @param rows makes the rows, in the columns of the table
   */
  record Insert(String table, Schema columns, Step rows) implements PlannedChange {}

  /**
   * UPDATE.
   *
   * @param values by column
   * @param condition which rows get them; empty for all
   */
  record Update(String table, Map<String, Expression> values, Optional<Condition> condition)
      implements PlannedChange {}

  /**
   * DELETE.
   *
   * @param condition which rows go; empty for all
   */
  record Delete(String table, Optional<Condition> condition) implements PlannedChange {}

  /** An UPDATE or DELETE whose condition no row can pass. */
  record Nothing(String table) implements PlannedChange {}

  /**
   * Plans a statement.
   *
   * @param tables how the planner knows a table of the state
   * @param now what CURRENT_TIMESTAMP is
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  static PlannedChange of(
      LakeView lake,
      Function<TableView, PlannedTable> tables,
      String statement,
      List<@Nullable Object> parameters,
      Instant now) {
    SqlText text = new SqlText(statement, 0);
    List<SqlNode> statements = text.statements();
    Planning planning = new Planning(text, Optional.empty(), parameters, now, true);
    return text.bounded(() -> new Planned(planning, lake, tables).of(statements));
  }

  /** One statement that is planned. */
  record Planned(Planning planning, LakeView lake, Function<TableView, PlannedTable> tables) {
    private static final String NEEDED = "A change is one statement INSERT, UPDATE or DELETE.";

    PlannedChange of(List<SqlNode> statements) {
      SqlNode statement = statements.isEmpty() ? null : statements.get(0);
      if (statements.size() == 1 && statement instanceof SqlInsert insert) {
        return insert(insert);
      }
      if (statements.size() == 1 && statement instanceof SqlUpdate update) {
        return update(update);
      }
      if (statements.size() == 1 && statement instanceof SqlDelete delete) {
        return delete(delete);
      }
      throw wrong(NEEDED, statement == null ? new SqlParserPos(1, 1) : second(statements));
    }

    private static SqlParserPos second(List<SqlNode> statements) {
      return statements.get(Math.min(1, statements.size() - 1)).getParserPosition();
    }

    private RuntimeException wrong(String what, SqlParserPos at) {
      return planning.text().wrong(what, at, null);
    }

    private TableView table(SqlNode target) {
      return planning.points(lake).table((SqlIdentifier) target);
    }

    private Stage planned(SqlNode query) {
      return planning.query(query, lake, new LakeCatalog(lake, tables)).stage();
    }

    private PlannedChange insert(SqlInsert insert) {
      TableView table = table(insert.getTargetTable());
      Schema schema = table.schema();
      List<SqlNode> named =
          insert.getTargetColumnList() == null ? List.of() : insert.getTargetColumnList().getList();
      List<String> columns = new ArrayList<>();
      named.forEach(one -> columns.add(column(one, schema, columns)));
      if (named.isEmpty()) {
        schema.columns().forEach(column -> columns.add(column.name()));
      }
      Stage stage = planned(typed(insert.getSource(), columns, schema));
      if (columns.size() != stage.fields().size()) {
        throw wrong(
            "%d columns get values, and the rows have %d.%s"
                .formatted(
                    columns.size(),
                    stage.fields().size(),
                    named.isEmpty() ? " Name the columns behind the table." : ""),
            insert.getSource().getParserPosition());
      }
      Map<String, Expression> given = new HashMap<>();
      for (int c = 0; c < columns.size(); c++) {
        given.put(columns.get(c), stage.fields().get(c));
      }
      Defaults defaults = new Defaults(planning.now());
      List<Expression> fields = new ArrayList<>();
      for (Field column : schema.columns()) {
        Expression value = given.get(column.name());
        Expression standard = new Literal(defaults.of(column.standard(), column));
        fields.add(stage.as(value == null ? standard : value, column.type()));
      }
      return new Insert(table.name(), schema, new Stage(stage.step(), fields).whole().step());
    }

    /** Rows of VALUES, whose parameters are of the types of the columns. */
    private static SqlNode typed(SqlNode rows, List<String> columns, Schema schema) {
      for (int c = 0; c < columns.size() && rows.getKind() == SqlKind.VALUES; c++) {
        Supplier<Optional<SqlDataTypeSpec>> type = spec(columns.get(c), schema);
        for (SqlNode row : ((SqlCall) rows).getOperandList()) {
          SqlCall values = (SqlCall) row;
          if (c < values.operandCount()) {
            values.setOperand(c, typed(values.operand(c), type));
          }
        }
      }
      return rows;
    }

    /** A parameter as one of a type; other values are as they are. */
    private static SqlNode typed(SqlNode value, Supplier<Optional<SqlDataTypeSpec>> type) {
      return value instanceof SqlDynamicParam
          ? type.get()
              .<SqlNode>map(spec -> SqlStdOperatorTable.CAST.createCall(at(value), value, spec))
              .orElse(value)
          : value;
    }

    /** The type of a column in a CAST; whether a text is too long is tested later. */
    private static Supplier<Optional<SqlDataTypeSpec>> spec(String column, Schema schema) {
      Type type = schema.columns().get(schema.indexOf(column)).type();
      return Suppliers.memoize(() -> RelTypes.spec(type.isText() ? Types.text() : type));
    }

    /** A column that gets a value, once. */
    private String column(SqlNode named, Schema schema, List<String> before) {
      if (((SqlIdentifier) named).names.size() > 1) {
        throw wrong(
            "A column gets a value as a whole; name it alone, without its table.", at(named));
      }
      String found = SqlValues.column((SqlIdentifier) named, schema, planning.text()).name();
      if (before.contains(found)) {
        throw wrong("Column " + found + " gets two values.", named.getParserPosition());
      }
      return found;
    }

    private PlannedChange update(SqlUpdate update) {
      TableView table = table(update.getTargetTable());
      List<String> columns = new ArrayList<>();
      update
          .getTargetColumnList()
          .forEach(one -> columns.add(column(one, table.schema(), columns)));
      SqlNodeList given = new SqlNodeList(at(update.getSourceExpressionList()));
      for (int c = 0; c < columns.size(); c++) {
        SqlNode value = update.getSourceExpressionList().get(c);
        given.add(typed(value, spec(columns.get(c), table.schema())));
      }
      Optional<Stage> scanned =
          scanned(update.getTargetTable(), update.getAlias(), given, update.getCondition());
      if (scanned.isEmpty()) {
        return new Nothing(table.name());
      }
      Stage stage = scanned.get();
      Map<String, Expression> values = new LinkedHashMap<>();
      for (int c = 0; c < columns.size(); c++) {
        Field column = table.schema().columns().get(table.schema().indexOf(columns.get(c)));
        values.put(columns.get(c), stage.as(stage.fields().get(c), column.type()));
      }
      return new Update(table.name(), values, ((ScanStep) stage.step()).condition());
    }

    private PlannedChange delete(SqlDelete delete) {
      TableView table = table(delete.getTargetTable());
      SqlNodeList one = SqlNodeList.of(SqlLiteral.createExactNumeric("1", at(delete)));
      Optional<Stage> scanned =
          scanned(delete.getTargetTable(), delete.getAlias(), one, delete.getCondition());
      return scanned.isEmpty()
          ? new Nothing(table.name())
          : new Delete(table.name(), ((ScanStep) scanned.get().step()).condition());
    }

    private static SqlParserPos at(SqlNode node) {
      return node.getParserPosition();
    }

    /** Expressions and a condition on the rows of a table alone; empty when no row can pass. */
    private Optional<Stage> scanned(
        SqlNode table,
        @Nullable SqlIdentifier alias,
        SqlNodeList values,
        @Nullable SqlNode condition) {
      SqlNode from =
          alias == null ? table : SqlStdOperatorTable.AS.createCall(at(table), table, alias);
      SqlSelect select =
          new SqlSelect(
              at(table), null, values, from, condition, null, null, null, null, null, null, null,
              null);
      Stage stage = planned(select);
      if (stage.step() instanceof ValuesStep none && none.rows().isEmpty()) {
        return Optional.empty();
      }
      if (!(stage.step() instanceof ScanStep)) {
        throw wrong(
            "An UPDATE or DELETE with a subquery, an aggregate or a window function is not there yet. A merge of the tool and of the Java API takes values of another table.",
            at(condition == null ? table : condition));
      }
      return Optional.of(stage);
    }
  }
}
