package org.ysteron.sql.plan;

import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlFunction;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlSnapshot;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.util.SqlShuttle;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.error.YsteronException;
import org.ysteron.sql.text.SqlConstant;
import org.ysteron.sql.text.SqlText;

/**
 * Puts pinned versions in place of {@code t FOR SYSTEM_TIME AS OF …}, before names and types are
 * looked at, so that the columns of then count. Behind it stand a time by any constant expression,
 * or {@code lake.version(n)}, {@code lake.bookmark('name')}, {@code lake.entry(n)}. For one query.
 */
final class Snapshots extends SqlShuttle {
  private final LakeView lake;
  private final LakeCatalog catalog;
  private final Optional<String> schema;
  private final SqlText text;
  private final Instant now;

  Snapshots(
      LakeView lake, LakeCatalog catalog, Optional<String> schema, SqlText text, Instant now) {
    this.lake = lake;
    this.catalog = catalog;
    this.schema = schema;
    this.text = text;
    this.now = now;
  }

  @Override
  public @Nullable SqlNode visit(SqlCall call) {
    if (call instanceof SqlSnapshot snapshot) {
      SqlIdentifier table = (SqlIdentifier) snapshot.getTableRef();
      String name = table.names.get(table.names.size() - 1);
      return SqlStdOperatorTable.AS.createCall(
          call.getParserPosition(),
          pinned(snapshot),
          new SqlIdentifier(name, table.getParserPosition()));
    }
    if (call.getKind() == SqlKind.AS && call.operand(0) instanceof SqlSnapshot snapshot) {
      List<SqlNode> operands = new ArrayList<>(call.getOperandList());
      operands.set(0, pinned(snapshot));
      return SqlStdOperatorTable.AS.createCall(call.getParserPosition(), operands);
    }
    return super.visit(call);
  }

  private SqlIdentifier pinned(SqlSnapshot snapshot) {
    SqlNode of = snapshot.getTableRef();
    if (!(of instanceof SqlIdentifier table)) {
      throw text.wrong(
          "Only a table of the lake has earlier versions.", of.getParserPosition(), null);
    }
    List<String> names = new ArrayList<>();
    if (table.names.size() == 1) {
      schema.ifPresent(names::add);
    }
    names.addAll(table.names);
    try {
      TableView view = view(String.join(".", names), snapshot.getPeriod());
      return catalog.pin(view, table.getParserPosition());
    } catch (org.ysteron.sql.text.SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), table.getParserPosition(), e);
    }
  }

  private TableView view(String table, SqlNode period) {
    if (period instanceof SqlBasicCall call
        && call.getOperator() instanceof SqlFunction function
        && function.getSqlIdentifier() != null
        && function.getSqlIdentifier().names.size() == 2
        && function.getSqlIdentifier().names.get(0).equalsIgnoreCase("lake")
        && call.operandCount() == 1) {
      Object point = SqlConstant.of(call.operand(0), text, now);
      String kind = function.getSqlIdentifier().names.get(1).toLowerCase(Locale.ROOT);
      if (kind.equals("bookmark") && point instanceof String name) {
        return lake.table(table).atBookmark(name);
      }
      if (point instanceof Integer || point instanceof Long) {
        long number = ((Number) point).longValue();
        if (kind.equals("version")) {
          return lake.table(table).at(number);
        }
        if (kind.equals("entry")) {
          return lake.atEntry(number).table(table);
        }
      }
      throw text.wrong(
          "A point is lake.version(number), lake.bookmark('name') or lake.entry(number).",
          period.getParserPosition(),
          null);
    }
    return lake.at(time(period)).table(table);
  }

  private Instant time(SqlNode period) {
    Object value = SqlConstant.of(period, text, now);
    if (value instanceof Instant instant) {
      return instant;
    }
    if (value instanceof LocalDateTime time) {
      return time.toInstant(ZoneOffset.UTC);
    }
    if (value instanceof LocalDate date) {
      return date.atStartOfDay(ZoneOffset.UTC).toInstant();
    }
    throw text.wrong(
        "This is no time. Write a date, a timestamp (in UTC when it has no zone), or lake.version(number), lake.bookmark('name'), lake.entry(number).",
        period.getParserPosition(),
        null);
  }
}
