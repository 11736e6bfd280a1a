package org.ysteron.sql.change;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDelete;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlInsert;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.apache.calcite.sql.SqlSelect;
import org.apache.calcite.sql.SqlUpdate;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.TransactionTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.LakeTable;
import org.ysteron.sql.grammar.LakeOperators;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.plan.Planning;
import org.ysteron.sql.plan.Stage;
import org.ysteron.sql.run.ProjectStep;
import org.ysteron.sql.run.ScanStep;
import org.ysteron.sql.run.ValuesStep;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;

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
   * UPDATE by expressions on the row alone.
   *
   * @param values by column
   * @param condition which rows get them; empty for all
   */
  record Update(String table, Map<String, Expression> values, Optional<Condition> condition)
      implements PlannedChange {}

  /**
   * DELETE by a condition on the row alone, or TRUNCATE.
   *
   * @param condition which rows go; empty for all
   */
  record Delete(String table, Optional<Condition> condition) implements PlannedChange {}

  /** An UPDATE or DELETE whose condition no row can pass. */
  record Nothing(String table) implements PlannedChange {}

  /**
   * A change of rows that a query finds; it is planned when it runs.
   *
   * @param operation the word for the history
   * @param bringsKeys whether there may be keys afterwards that the table does not have
   */
  record Found(String table, String operation, boolean bringsKeys, Finding finding)
      implements PlannedChange {}

  /** Plans the query that finds the rows of a change. */
  interface Finding {
    /** The rows; {@code target}: those of the table, which tell where they are. */
    FoundRows rows(TransactionTable.LocatedRows target);
  }

  /** Whether a parsed statement changes rows. */
  static boolean isOne(SqlNode statement) {
    return statement instanceof SqlInsert
        || statement instanceof SqlUpdate
        || statement instanceof SqlDelete
        || is(statement, LakeOperators.MERGE)
        || is(statement, LakeOperators.TRUNCATE);
  }

  private static boolean is(SqlNode statement, SqlOperator operator) {
    return statement instanceof SqlCall call && call.getOperator().equals(operator);
  }

  /**
   * Plans a parsed statement.
   *
   * @param schema where tables are whose names are given alone
   * @param sets what stands for the question marks; several sets when {@link #takesRows}
   * @param now what CURRENT_TIMESTAMP is
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  static PlannedChange of(
      LakeView lake,
      SqlNode statement,
      SqlText text,
      Optional<String> schema,
      List<List<@Nullable Object>> sets,
      Instant now) {
    Planning planning = new Planning(text, schema, sets.get(0), now, true);
    return text.bounded(() -> new Planned(ChangeText.of(planning, lake), sets).of(statement));
  }

  /** Whether a parsed statement can be planned once for many sets of parameters. */
  static boolean takesRows(SqlNode statement) {
    return ParameterRows.isPossible(statement);
  }

  /** One statement that is planned. */
  record Planned(ChangeText text, List<List<@Nullable Object>> sets) {

    PlannedChange of(SqlNode statement) {
      if (statement instanceof SqlInsert insert) {
        return insert(insert);
      }
      if (statement instanceof SqlUpdate update) {
        return update(update);
      }
      if (statement instanceof SqlDelete delete) {
        return delete(delete);
      }
      SqlCall call = (SqlCall) statement;
      TableView table = text.table(call.operand(0));
      if (is(statement, LakeOperators.TRUNCATE)) {
        return new Delete(table.name(), Optional.empty());
      }
      MergePlan merge = new MergePlan(text, call, table.schema());
      return new Found(
          table.name(),
          "merge",
          merge.bringsKeys(),
          target -> merge.plan(new LakeTable(table, Optional.of(target))));
    }

    private PlannedChange insert(SqlInsert insert) {
      TableView table = text.table(insert.getTargetTable());
      Schema schema = table.schema();
      SqlNodeList named = insert.getTargetColumnList();
      boolean namesNone = named == null || named.isEmpty();
      if (is(insert.getSource(), LakeOperators.DEFAULT_VALUES)) {
        if (!namesNone) {
          throw text.wrong("DEFAULT VALUES is of all columns; name none.", insert.getSource());
        }
        return new Insert(table.name(), schema, defaults(schema));
      }
      List<Field> columns = namesNone ? schema.columns() : text.columns(named, schema);
      LakeCatalog catalog = new LakeCatalog(text.lake());
      SqlNode rows =
          takesRows(insert)
              ? ParameterRows.query(insert, columns, sets, text, catalog)
              : text.rows(insert.getSource(), columns);
      Stage stage = text.planned(rows, catalog);
      if (columns.size() != stage.fields().size()) {
        throw text.wrong(
            "%d columns get values, and the rows have %d.%s"
                .formatted(
                    columns.size(),
                    stage.fields().size(),
                    namesNone ? " Name the columns behind the table." : ""),
            insert.getSource());
      }
      List<Expression> fields = text.row(schema, stage, ChangeText.byName(columns, stage.fields()));
      return new Insert(table.name(), schema, new Stage(stage.step(), fields).whole().step());
    }

    /** One row of defaults. */
    private Step defaults(Schema schema) {
      Stage one = text.planned(one(SqlParserPos.ZERO));
      return new Stage(one.step(), text.row(schema, one, Map.of())).whole().step();
    }

    private static SqlNode one(SqlParserPos at) {
      SqlNodeList values = SqlNodeList.of(SqlLiteral.createExactNumeric("1", at));
      return select(at, values, null, null);
    }

    private static SqlSelect select(
        SqlParserPos at, SqlNodeList values, @Nullable SqlNode from, @Nullable SqlNode where) {
      return new SqlSelect(
          at, null, values, from, where, null, null, null, null, null, null, null, null);
    }

    private PlannedChange update(SqlUpdate update) {
      TableView table = text.table(update.getTargetTable());
      List<Field> columns = text.columns(update.getTargetColumnList(), table.schema());
      SqlNodeList given = new SqlNodeList(ChangeText.at(update.getSourceExpressionList()));
      for (int c = 0; c < columns.size(); c++) {
        given.add(text.value(update.getSourceExpressionList().get(c), columns.get(c)));
      }
      Changing changing =
          new Changing(
              table, update.getTargetTable(), update.getAlias(), given, update.getCondition());
      Stage stage = changing.plain();
      if (isNone(stage)) {
        return new Nothing(table.name());
      }
      if (stage.step() instanceof ScanStep scan) {
        Map<String, Expression> values = new LinkedHashMap<>();
        for (int c = 0; c < columns.size(); c++) {
          Field column = columns.get(c);
          values.put(column.name(), stage.as(stage.fields().get(c), column.type()));
        }
        return new Update(table.name(), values, scan.condition());
      }
      boolean bringsKeys =
          columns.stream().anyMatch(column -> table.schema().key().contains(column.name()));
      return new Found(
          table.name(),
          "update",
          bringsKeys,
          target -> changing.found(target, FoundRows.Action.UPDATE, columns));
    }

    private PlannedChange delete(SqlDelete delete) {
      TableView table = text.table(delete.getTargetTable());
      SqlNodeList one = SqlNodeList.of(SqlLiteral.createExactNumeric("1", ChangeText.at(delete)));
      Changing changing =
          new Changing(
              table, delete.getTargetTable(), delete.getAlias(), one, delete.getCondition());
      Stage stage = changing.plain();
      if (isNone(stage)) {
        return new Nothing(table.name());
      }
      return stage.step() instanceof ScanStep scan
          ? new Delete(table.name(), scan.condition())
          : new Found(
              table.name(),
              "delete",
              false,
              target -> changing.found(target, FoundRows.Action.DELETE, List.of()));
    }

    private static boolean isNone(Stage stage) {
      return stage.step() instanceof ValuesStep none && none.rows().isEmpty();
    }

    /** Values for the rows of a table that pass a condition. */
    private final class Changing {
      private final TableView table;
      private final SqlIdentifier named;
      private final @Nullable SqlIdentifier alias;
      private final SqlNodeList values;
      private final @Nullable SqlNode condition;

      Changing(
          TableView table,
          SqlNode named,
          @Nullable SqlIdentifier alias,
          SqlNodeList values,
          @Nullable SqlNode condition) {
        this.table = table;
        this.named = (SqlIdentifier) named;
        this.alias = alias;
        this.values = values;
        this.condition = condition;
      }

      private @Nullable SqlNode condition() {
        return condition == null ? null : SqlNodes.copy(condition);
      }

      /** Planned on the table as it is. */
      Stage plain() {
        SqlParserPos at = ChangeText.at(named);
        SqlNode from = alias == null ? named : SqlStdOperatorTable.AS.createCall(at, named, alias);
        SqlNodeList copied = SqlNodes.copy(values);
        Stage stage = text.planned(select(at, copied, from, condition()));
        ChangeText.aggregate(copied)
            .ifPresent(
                call -> {
                  throw text.wrong(
                      "A row gets a value of its own; an aggregate is of several rows. Write it in a subquery: (SELECT … FROM …).",
                      call);
                });
        return stage;
      }

      /** Planned on rows that tell where they are. */
      FoundRows found(
          TransactionTable.LocatedRows rows, FoundRows.Action action, List<Field> columns) {
        LakeTable located = new LakeTable(table, Optional.of(rows));
        LakeCatalog catalog = new LakeCatalog(text.lake());
        ChangeText.Target target = text.target(named, alias, located, catalog);
        SqlParserPos at = ChangeText.at(named);
        SqlNodeList all = new SqlNodeList(at);
        all.add(target.column(rows.file().name()));
        all.add(target.column(rows.position().name()));
        for (int c = 0; c < columns.size(); c++) {
          all.add(target.named(SqlNodes.copy(values.get(c))));
        }
        SqlNode where = condition();
        where = where == null ? null : target.named(where);
        Stage stage = text.planned(select(at, all, target.from(), where), catalog);
        List<Expression> made = new ArrayList<>();
        List<Type> types = new ArrayList<>(List.of(Types.INTEGER, Types.BIGINT, Types.BIGINT));
        made.add(new Literal(action.number()));
        made.addAll(stage.fields().subList(0, FoundRows.PLACES - 1));
        for (int c = 0; c < columns.size(); c++) {
          Type type = columns.get(c).type();
          types.add(type.isText() ? Types.text() : type);
          made.add(stage.as(stage.fields().get(FoundRows.PLACES - 1 + c), type));
        }
        Step step = new ProjectStep(stage.reading(made), made, Made.schema(types));
        return new FoundRows(step, columns, columns);
      }
    }
  }
}
