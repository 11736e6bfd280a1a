package org.ysteron.sql.catalog;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import org.apache.calcite.sql.SqlBasicTypeNameSpec;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlCharStringLiteral;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlIntervalLiteral;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlSnapshot;
import org.apache.calcite.sql.SqlUnknownLiteral;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.apache.calcite.sql.type.SqlTypeName;
import org.apache.calcite.sql.util.SqlShuttle;
import org.apache.calcite.util.NlsString;
import org.jspecify.annotations.Nullable;
import org.ysteron.sql.text.SqlText;

/**
 * Puts what the planner knows in place of what it does not, before names and types are looked at:
 * pinned tables for {@code t FOR SYSTEM_TIME AS OF …}, so that the columns of then count, and for
 * {@code TABLE(lake.changes(…))} and {@code TABLE(lake.file(…))}; casts for times with a zone;
 * functions of ours for those that the grammar names itself. For one statement.
 */
public final class Replacements extends SqlShuttle {
  private static final Pattern ZONED = Pattern.compile("(?i).*(\\d *[+-]\\d\\d:?\\d\\d|Z) *");
  private static final Pattern FINE = Pattern.compile(".*\\.\\d{3}\\d*[1-9].*");
  private static final int MICROSECONDS = 6;

  private final LakeCatalog catalog;
  private final Points points;
  private final TableFunctions functions;
  private final SqlText text;

  public Replacements(LakeCatalog catalog, Points points, TableFunctions functions, SqlText text) {
    this.catalog = catalog;
    this.points = points;
    this.functions = functions;
    this.text = text;
  }

  /**
   * TIMESTAMP literals with a time zone, which the planner does not know; texts by code points,
   * which it takes for texts of another character set.
   */
  @Override
  public @Nullable SqlNode visit(SqlLiteral literal) {
    if (literal instanceof SqlIntervalLiteral interval
        && FINE.matcher(String.valueOf(interval.getValue())).matches()) {
      throw text.wrong(
          "The literal of an interval has milliseconds at most.",
          literal.getParserPosition(),
          null);
    }
    if (literal instanceof SqlCharStringLiteral
        && literal.getValue() instanceof NlsString string
        && string.getCharset() != null
        && !string.getCharset().equals(StandardCharsets.UTF_8)) {
      return SqlLiteral.createCharString(string.getValue(), literal.getParserPosition());
    }
    if (!(literal instanceof SqlUnknownLiteral unknown)
        || !unknown.tag.equals("TIMESTAMP")
        || !ZONED.matcher(unknown.getValue()).matches()) {
      return literal;
    }
    SqlParserPos at = literal.getParserPosition();
    String iso = unknown.getValue().strip().replaceFirst("(?<=\\d) +(?=\\d)", "T");
    return SqlStdOperatorTable.CAST.createCall(
        at,
        SqlLiteral.createCharString(iso.replace(" ", ""), at),
        new SqlDataTypeSpec(
            new SqlBasicTypeNameSpec(SqlTypeName.TIMESTAMP_TZ, MICROSECONDS, at), at));
  }

  /** A table in the place of another, and what it is called when the query does not say. */
  private record Pinned(SqlNode table, String name) {}

  @Override
  public @Nullable SqlNode visit(SqlCall call) {
    Pinned pinned = pinned(call);
    if (pinned != null) {
      return SqlStdOperatorTable.AS.createCall(
          call.getParserPosition(),
          pinned.table,
          new SqlIdentifier(pinned.name, call.getParserPosition()));
    }
    if (call.getKind() == SqlKind.AS && call.operand(0) instanceof SqlCall named) {
      Pinned table = pinned(named);
      if (table != null) {
        List<SqlNode> operands = new ArrayList<>(call.getOperandList());
        operands.set(0, table.table);
        return SqlStdOperatorTable.AS.createCall(call.getParserPosition(), operands);
      }
    }
    SqlNode visited = super.visit(call);
    return visited instanceof SqlCall same ? LakeFunctions.own(same) : visited;
  }

  private @Nullable Pinned pinned(SqlCall call) {
    if (call instanceof SqlSnapshot snapshot) {
      if (!(snapshot.getTableRef() instanceof SqlIdentifier table)) {
        throw text.wrong(
            "Only a table of the lake has earlier versions.",
            snapshot.getTableRef().getParserPosition(),
            null);
      }
      PlannedTable then = new LakeTable(points.table(table, snapshot.getPeriod()));
      return new Pinned(
          catalog.pin(then, table.getParserPosition()), table.names.get(table.names.size() - 1));
    }
    if (call.getKind() == SqlKind.COLLECTION_TABLE
        && call.operand(0) instanceof SqlCall function
        && functions.knows(function)) {
      return new Pinned(
          catalog.pin(functions.of(function), call.getParserPosition()), functions.name(function));
    }
    return null;
  }
}
