package org.ysteron.sql;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlInsert;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.Transaction;
import org.ysteron.TransactionTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.option.Alteration;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.sql.grammar.LakeOperators;
import org.ysteron.sql.plan.PlannedQuery;
import org.ysteron.sql.text.SqlAlter;
import org.ysteron.sql.text.SqlColumns;
import org.ysteron.sql.text.SqlLayout;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlTextException;

/**
 * A parsed statement that defines tables: CREATE, ALTER, DROP TABLE, COMMENT ON.
 *
 * @param text in which it stands
 * @param schema where tables are whose names are given alone
 * @param parameters what stands for the question marks of a query in it
 */
record SqlDefinition(
    SqlCall statement, SqlText text, Optional<String> schema, List<@Nullable Object> parameters) {

  /** Whether a parsed statement is one. */
  static boolean isOne(SqlNode statement) {
    return SqlNodes.is(statement, LakeOperators.CREATE_TABLE)
        || SqlNodes.is(statement, LakeOperators.ALTER_TABLE)
        || SqlNodes.is(statement, LakeOperators.DROP_TABLE)
        || SqlNodes.is(statement, LakeOperators.COMMENT_ON);
  }

  /** The new name that it gives a table, if it does, which is a statement of its own. */
  Optional<String> newName() {
    if (!SqlNodes.is(statement, LakeOperators.ALTER_TABLE)) {
      return Optional.empty();
    }
    SqlNodeList actions = statement.operand(1);
    SqlNode only = actions.size() == 1 ? actions.get(0) : null;
    return SqlNodes.is(only, LakeOperators.RENAME_TABLE)
        ? Optional.of(name(((SqlCall) actions.get(0)).operand(0)))
        : Optional.empty();
  }

  /** The table that an ALTER TABLE is of. */
  String altered() {
    return name(statement.operand(0));
  }

  private String name(SqlIdentifier table) {
    List<String> names = new ArrayList<>();
    if (table.names.size() == 1) {
      schema.ifPresent(names::add);
    }
    names.addAll(table.names);
    return String.join(".", names);
  }

  /** Carries it out in a transaction; returns what was done, for people. */
  String apply(Transaction transaction) {
    if (SqlNodes.is(statement, LakeOperators.CREATE_TABLE)) {
      return create(transaction)
          ? "Table created."
          : "The table exists already; nothing was changed.";
    }
    if (SqlNodes.is(statement, LakeOperators.DROP_TABLE)) {
      return drop(transaction) ? "Table dropped." : "There was no such table; nothing was changed.";
    }
    if (SqlNodes.is(statement, LakeOperators.ALTER_TABLE)) {
      alter(transaction);
    } else {
      comment(transaction);
    }
    return "Table altered.";
  }

  private interface Work<T> {
    T run();
  }

  /** What is wrong with a part of the statement is told with its place. */
  private <T> T at(SqlNode part, Work<T> work) {
    try {
      return work.run();
    } catch (SqlTextException e) {
      throw e;
    } catch (org.ysteron.error.NotFoundException | org.ysteron.error.AlreadyExistsException e) {
      throw e; // which say what is wrong by their kind
    } catch (org.ysteron.error.InvalidInputException e) {
      throw text.wrong(e.getMessage(), part.getParserPosition(), e);
    }
  }

  private static boolean isTrue(SqlNode literal) {
    return ((SqlLiteral) literal).booleanValue();
  }

  private boolean create(Transaction transaction) {
    SqlIdentifier named = statement.operand(1);
    String name = name(named);
    if (isTrue(statement.operand(0)) && transaction.view().findTable(name).isPresent()) {
      return false;
    }
    SqlNodeList elements = statement.operand(2);
    SqlNode query = statement.operand(5);
    SqlColumns.Table defined = defined(transaction, elements, query);
    LayoutPlan layout =
        statement.operand(3) == null ? LayoutPlan.none() : SqlLayout.of(statement.operand(3), text);
    TableSettings settings = settings(statement.operand(4));
    TransactionTable table =
        at(named, () -> transaction.createTable(name, defined.schema(), settings, layout));
    List<Alteration> checks = new ArrayList<>();
    defined
        .checks()
        .forEach(check -> checks.add(new Alteration.AddCheck(check.name(), check.condition())));
    if (!checks.isEmpty()) {
      at(named, () -> table.alter().all(checks).run());
    }
    if (query != null) {
      SqlInsert insert =
          new SqlInsert(
              query.getParserPosition(), SqlNodeList.EMPTY, named, SqlNodes.copy(query), null);
      new SqlChange(insert, text, schema, List.of(parameters)).apply(transaction);
    }
    return true;
  }

  private SqlColumns.Table defined(
      Transaction transaction, @Nullable SqlNodeList elements, @Nullable SqlNode query) {
    if (elements != null) {
      return SqlColumns.of(elements, text, false);
    }
    if (query == null) {
      throw text.wrong(
          "A table has columns: name them in parentheses, or write AS and a query.",
          statement.getParserPosition(),
          null);
    }
    LakeView lake = transaction.view();
    Instant now = Instant.now().truncatedTo(ChronoUnit.MICROS);
    PlannedQuery planned =
        PlannedQuery.of(lake, schema, SqlNodes.copy(query), text, Map.of(), parameters, now);
    List<Field> columns = new ArrayList<>();
    for (int c = 0; c < planned.labels().size(); c++) {
      Field column = planned.step().columns().columns().get(c);
      columns.add(Field.of(planned.labels().get(c), column.type()));
    }
    return at(query, () -> new SqlColumns.Table(Schema.of(columns), List.of()));
  }

  private TableSettings settings(@Nullable SqlCall options) {
    TableSettings settings = TableSettings.DEFAULTS;
    if (options == null) {
      return settings;
    }
    Map<String, Optional<Object>> given =
        new HashMap<>(SqlLayout.options(options.operand(0), text));
    for (Map.Entry<String, Optional<Object>> option : given.entrySet()) {
      TableSettings before = settings;
      if (option.getValue().isPresent()) {
        settings = at(options, () -> before.with(option.getKey(), option.getValue().orElseThrow()));
      }
    }
    return settings;
  }

  private void alter(Transaction transaction) {
    SqlIdentifier named = statement.operand(0);
    TableView table = transaction.view().table(name(named));
    List<Alteration> alterations = SqlAlter.of(statement.operand(1), text, table);
    at(named, () -> transaction.table(table.name()).alter().all(alterations).run());
  }

  private boolean drop(Transaction transaction) {
    String name = name(statement.operand(1));
    if (isTrue(statement.operand(0)) && transaction.view().findTable(name).isEmpty()) {
      return false;
    }
    transaction.dropTable(name);
    return true;
  }

  private void comment(Transaction transaction) {
    SqlIdentifier path = statement.operand(0);
    int tables =
        schema.isPresent() && transaction.view().findTable(name(first(path, 1))).isPresent()
            ? 1
            : 2;
    if (path.names.size() <= tables) {
      throw text.wrong(
          "Name the table and the column, as in COMMENT ON COLUMN tide.readings.level_cm.",
          path.getParserPosition(),
          null);
    }
    String table = name(first(path, tables));
    String column = Schema.path(path.names.subList(tables, path.names.size()));
    SqlNode comment = statement.operand(1);
    String told = comment == null ? "" : SqlNodes.string(comment);
    at(path, () -> transaction.table(table).alter().comment(column, told).run());
  }

  private static SqlIdentifier first(SqlIdentifier path, int names) {
    return path.getComponent(0, names);
  }
}
