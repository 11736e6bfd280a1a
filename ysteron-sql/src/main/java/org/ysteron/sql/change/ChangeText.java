package org.ysteron.sql.change;

import com.google.common.base.Suppliers;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlDynamicParam;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.apache.calcite.sql.util.SqlShuttle;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.form.Defaults;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.PlannedTable;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.plan.Planning;
import org.ysteron.sql.plan.Stage;
import org.ysteron.sql.text.SqlValues;

/**
 * Reads what a statement that changes rows says of its table.
 *
 * @param defaults what CURRENT_TIMESTAMP in a default is
 * @param parameters for question marks; those that stand for DEFAULT are added
 */
record ChangeText(
    Planning planning, LakeView lake, Defaults defaults, List<@Nullable Object> parameters) {

  /** For one statement. */
  static ChangeText of(Planning planning, LakeView lake) {
    List<@Nullable Object> parameters = new ArrayList<>(planning.parameters());
    return new ChangeText(
        new Planning(
            planning.text(), planning.schema(), parameters, planning.now(), planning.pushes()),
        lake,
        new Defaults(planning.now()),
        parameters);
  }

  RuntimeException wrong(String what, SqlNode at) {
    return planning.text().wrong(what, at(at), null);
  }

  static SqlParserPos at(SqlNode node) {
    return node.getParserPosition();
  }

  /** The table that a statement changes. */
  TableView table(SqlNode target) {
    return planning.points(lake).table((SqlIdentifier) target);
  }

  Stage planned(SqlNode query) {
    return planned(query, new LakeCatalog(lake));
  }

  Stage planned(SqlNode query, LakeCatalog catalog) {
    return planning.query(query, lake, catalog).stage();
  }

  /** Columns that get values, each once. */
  List<Field> columns(Iterable<SqlNode> named, Schema schema) {
    List<Field> columns = new ArrayList<>();
    for (SqlNode one : named) {
      if (((SqlIdentifier) one).names.size() > 1) {
        throw wrong("A column gets a value as a whole; name it alone, without its table.", one);
      }
      Field found = SqlValues.column((SqlIdentifier) one, schema, planning.text());
      if (columns.contains(found)) {
        throw wrong("Column " + found.name() + " gets two values.", one);
      }
      columns.add(found);
    }
    return columns;
  }

  /** A value for a column: a parameter is of its type, and DEFAULT is its default. */
  SqlNode value(SqlNode value, Field column) {
    if (value instanceof SqlDynamicParam) {
      return typed(value, spec(column));
    }
    return value.getKind() == SqlKind.DEFAULT ? standard(column, at(value)) : value;
  }

  /** Rows of VALUES for columns. */
  SqlNode rows(SqlNode rows, List<Field> columns) {
    for (int c = 0; c < columns.size() && rows.getKind() == SqlKind.VALUES; c++) {
      for (SqlNode row : ((SqlCall) rows).getOperandList()) {
        SqlCall values = (SqlCall) row;
        if (c < values.operandCount()) {
          values.setOperand(c, value(values.operand(c), columns.get(c)));
        }
      }
    }
    return rows;
  }

  private SqlNode standard(Field column, SqlParserPos at) {
    Object value = defaults.of(column.standard(), column);
    if (value == null) {
      return SqlLiteral.createNull(at);
    }
    parameters.add(value);
    return typed(new SqlDynamicParam(parameters.size() - 1, at), spec(column));
  }

  private static SqlNode typed(SqlNode value, Supplier<Optional<SqlDataTypeSpec>> type) {
    return type.get()
        .<SqlNode>map(spec -> SqlStdOperatorTable.CAST.createCall(at(value), value, spec))
        .orElse(value);
  }

  /** The type of a column in a CAST; whether a text is too long is tested later. */
  private static Supplier<Optional<SqlDataTypeSpec>> spec(Field column) {
    Type type = column.type();
    return Suppliers.memoize(() -> RelTypes.spec(type.isText() ? Types.text() : type));
  }

  /** A whole new row: what is given, and the defaults of other columns. */
  List<Expression> row(Schema schema, Stage stage, Map<String, Expression> given) {
    List<Expression> values = new ArrayList<>();
    for (Field column : schema.columns()) {
      Expression value = given.get(column.name());
      Expression standard = new Literal(defaults.of(column.standard(), column));
      values.add(stage.as(value == null ? standard : value, column.type()));
    }
    return values;
  }

  /** Expressions by the columns that they are for. */
  static Map<String, Expression> byName(List<Field> columns, List<Expression> values) {
    Map<String, Expression> named = new HashMap<>();
    for (int c = 0; c < columns.size(); c++) {
      named.put(columns.get(c).name(), values.get(c));
    }
    return named;
  }

  /** An aggregate in planned expressions that is no window function, outside of subqueries. */
  static Optional<SqlNode> aggregate(SqlNode planned) {
    SqlNode[] found = {null};
    planned.accept(
        new SqlShuttle() {
          @Override
          public SqlNode visit(SqlCall call) {
            if (call.getOperator().isAggregator()) {
              found[0] = call;
            }
            boolean isOther = call.isA(SqlKind.QUERY) || call.getKind() == SqlKind.OVER;
            return isOther ? call : super.visit(call);
          }
        });
    return Optional.ofNullable(found[0]);
  }

  /** A table that stands for the one that a statement changes, under the names that has. */
  record Target(SqlNode from, SqlIdentifier alias, List<String> names) {

    /** An expression, in which the table is named by its alias. */
    SqlNode named(SqlNode expression) {
      return expression.accept(
          new SqlShuttle() {
            @Override
            public SqlNode visit(SqlIdentifier name) {
              int count = names.size();
              boolean isOurs =
                  count > 1
                      && name.names.size() > count
                      && name.names.subList(0, count).equals(names);
              return isOurs ? name.getComponent(count - 1, name.names.size()) : name;
            }
          });
    }

    SqlNodeList named(Iterable<SqlNode> expressions, SqlParserPos at) {
      SqlNodeList all = new SqlNodeList(at);
      expressions.forEach(expression -> all.add(named(expression)));
      return all;
    }

    /** A column of it. */
    SqlIdentifier column(String name) {
      return new SqlIdentifier(List.of(alias.getSimple(), name), at(from));
    }
  }

  Target target(
      SqlNode table, @Nullable SqlIdentifier alias, PlannedTable as, LakeCatalog catalog) {
    SqlIdentifier given = (SqlIdentifier) table;
    SqlIdentifier name = alias == null ? given.getComponent(given.names.size() - 1) : alias;
    SqlNode from = SqlStdOperatorTable.AS.createCall(at(table), catalog.pin(as, at(table)), name);
    return new Target(from, name, alias == null ? given.names : List.of());
  }
}
