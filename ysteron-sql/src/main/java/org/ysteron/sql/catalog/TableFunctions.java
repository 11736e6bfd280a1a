package org.ysteron.sql.catalog;

import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlFunction;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.Changes;
import org.ysteron.intake.OutsideFile;
import org.ysteron.internal.text.NearNames;
import org.ysteron.sql.inside.ChangesStep;
import org.ysteron.sql.inside.FileStep;
import org.ysteron.sql.text.SqlColumns;
import org.ysteron.sql.text.SqlConstant;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlTextException;

/**
 * The table functions of schema {@code lake}: {@code changes(TABLE t, since => point, until =>
 * point)} and {@code file('path', columns => 'definitions', kind => 'csv')}. For one statement.
 */
public final class TableFunctions {
  private static final String LAKE = "lake";
  private static final String CHANGES = "changes";
  private static final String FILE = "file";
  private static final List<String> NAMES = List.of(CHANGES, FILE);
  private static final double OF_FILE = 10_000;

  private final Points points;
  private final SqlText text;
  private final Instant now;

  public TableFunctions(Points points, SqlText text, Instant now) {
    this.points = points;
    this.text = text;
    this.now = now;
  }

  private static @Nullable String called(SqlCall call) {
    return call.getOperator() instanceof SqlFunction function
            && function.getSqlIdentifier() != null
            && function.getSqlIdentifier().names.size() == 2
            && function.getSqlIdentifier().names.get(0).equalsIgnoreCase(LAKE)
        ? function.getSqlIdentifier().names.get(1).toLowerCase(Locale.ROOT)
        : null;
  }

  /** Whether a function is one of schema {@code lake}, though it may not exist. */
  boolean knows(SqlCall function) {
    return called(function) != null;
  }

  /** What the rows of a function are called when the query does not say. */
  String name(SqlCall function) {
    return String.valueOf(called(function));
  }

  /**
   * The table that a function gives.
   *
   * @throws SqlTextException pointing at what is wrong
   */
  PlannedTable of(SqlCall function) {
    String name = name(function);
    try {
      return switch (name) {
        case CHANGES -> changes(function);
        case FILE -> file(function);
        default ->
            throw wrong(
                "There is no table function lake.%s.%s"
                    .formatted(name, NearNames.didYouMean(name, NAMES)),
                function);
      };
    } catch (SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), function.getParserPosition(), e);
    }
  }

  private SqlTextException wrong(String what, SqlNode at) {
    return text.wrong(what, at.getParserPosition(), null);
  }

  /** The arguments by their names; those without one by their number, from 0 on. */
  private Map<String, SqlNode> arguments(SqlCall function, String form, String... known) {
    Map<String, SqlNode> arguments = new HashMap<>();
    for (SqlNode operand : function.getOperandList()) {
      boolean isNamed = operand.getKind() == SqlKind.ARGUMENT_ASSIGNMENT;
      String name =
          isNamed
              ? ((SqlBasicCall) operand).operand(1).toString().toLowerCase(Locale.ROOT)
              : String.valueOf(arguments.size());
      if (isNamed && !Arrays.asList(known).contains(name)) {
        throw wrong("There is no argument %s. Write %s.".formatted(name, form), operand);
      }
      if (arguments.put(name, isNamed ? ((SqlBasicCall) operand).operand(0) : operand) != null) {
        throw wrong("The argument %s is given twice.".formatted(name), operand);
      }
    }
    if (!arguments.containsKey("0") || arguments.containsKey("1")) {
      throw wrong("Write %s.".formatted(form), function);
    }
    return arguments;
  }

  private PlannedTable changes(SqlCall function) {
    String form = "lake.changes(TABLE name, since => point, until => point)";
    Map<String, SqlNode> arguments = arguments(function, form, "since", "until");
    SqlNode of = arguments.get("0");
    while (!(of instanceof SqlIdentifier)
        && of instanceof SqlCall call
        && call.operandCount() > 0) {
      of = call.operand(0);
    }
    SqlNode since = arguments.get("since");
    if (!(of instanceof SqlIdentifier table) || since == null) {
      throw wrong("Write %s.".formatted(form), function);
    }
    SqlNode until = arguments.get("until");
    TableView from = points.table(table, since);
    TableView to = until == null ? points.table(table) : points.table(table, until);
    Changes changes = from.changesTo(to);
    ChangeCounts counts = changes.count();
    double rows = (double) counts.inserted() + counts.deleted() + counts.updated();
    return new OtherTable(ChangesStep.of(changes, points.name(table)), rows);
  }

  private @Nullable String constant(Map<String, SqlNode> arguments, String name) {
    SqlNode node = arguments.get(name);
    if (node == null) {
      return null;
    }
    if (SqlConstant.of(node, text, now) instanceof String value) {
      return value;
    }
    throw wrong(
        "%s is a text.".formatted(name.equals("0") ? "The path" : "The argument " + name), node);
  }

  private PlannedTable file(SqlCall function) {
    String form = "lake.file('path', columns => 'name type, …', kind => 'csv')";
    Map<String, SqlNode> arguments = arguments(function, form, "columns", "kind");
    String path = constant(arguments, "0");
    String kind = constant(arguments, "kind");
    String columns = constant(arguments, "columns");
    if (path == null) {
      throw wrong("The path of the file is null.", function);
    }
    OutsideFile file =
        kind == null
            ? OutsideFile.of(Path.of(path))
            : new OutsideFile(Path.of(path), kind(kind, function));
    Schema schema = columns == null ? texts(file, path, function) : SqlColumns.parse(columns);
    return new OtherTable(new FileStep(file, path, schema), OF_FILE);
  }

  private OutsideFile.Kind kind(String name, SqlNode at) {
    return switch (name) {
      case "csv" -> OutsideFile.Kind.CSV;
      case "json_lines" -> OutsideFile.Kind.JSON_LINES;
      default ->
          throw wrong("The kind of a file is csv or json_lines, not %s.".formatted(name), at);
    };
  }

  /** The columns that a CSV file names, as texts. */
  private Schema texts(OutsideFile file, String path, SqlNode at) {
    if (file.kind() != OutsideFile.Kind.CSV) {
      throw wrong("Say which columns %s has: columns => 'name type, …'.".formatted(path), at);
    }
    List<Field> columns = new ArrayList<>();
    file.columns().forEach(name -> columns.add(Field.of(name, Types.text())));
    if (columns.isEmpty()) {
      throw wrong("The file %s has no line with the names of its columns.".formatted(path), at);
    }
    return Schema.of(columns);
  }
}
