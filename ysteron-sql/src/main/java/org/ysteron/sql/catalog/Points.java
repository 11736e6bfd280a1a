package org.ysteron.sql.catalog;

import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlFunction;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.error.YsteronException;
import org.ysteron.sql.text.SqlConstant;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlTextException;

/**
 * Points in the past of tables and of the lake: a time by any constant expression, or {@code
 * lake.version(n)}, {@code lake.bookmark('name')}, {@code lake.entry(n)}. For one statement.
 */
public final class Points {
  private static final String FORMS =
      "lake.version(number), lake.bookmark('name') or lake.entry(number)";

  private final LakeView lake;
  private final Optional<String> schema;
  private final SqlText text;
  private final Instant now;

  public Points(LakeView lake, Optional<String> schema, SqlText text, Instant now) {
    this.lake = lake;
    this.schema = schema;
    this.text = text;
    this.now = now;
  }

  /** A point that is written as a function of schema {@code lake}. */
  private record Named(String kind, @Nullable Object value) {}

  /** The name of a table with its namespace. */
  public String name(SqlIdentifier table) {
    List<String> names = new ArrayList<>();
    if (table.names.size() == 1) {
      schema.ifPresent(names::add);
    }
    names.addAll(table.names);
    return String.join(".", names);
  }

  /** A table now. */
  public TableView table(SqlIdentifier table) {
    return pointing(table, () -> lake.table(name(table)));
  }

  /**
   * A table at a point.
   *
   * @throws SqlTextException pointing at what is wrong, also when the version has expired
   */
  public TableView table(SqlIdentifier table, SqlNode point) {
    return pointing(table, () -> view(name(table), point));
  }

  /** The lake at a point. */
  public LakeView lake(SqlNode point) {
    return pointing(
        point,
        () -> {
          Optional<Named> named = named(point);
          if (named.isEmpty()) {
            return lake.at(time(point));
          }
          if (named.get().kind.equals("bookmark") && named.get().value instanceof String name) {
            return lake.atBookmark(name);
          }
          if (named.get().kind.equals("entry") && named.get().value instanceof Long entry) {
            return lake.atEntry(entry);
          }
          throw text.wrong(
              "A point of all tables is a time, lake.bookmark('name') or lake.entry(number).",
              point.getParserPosition(),
              null);
        });
  }

  private interface Finding<T> {
    T find();
  }

  private <T> T pointing(SqlNode at, Finding<T> finding) {
    try {
      return finding.find();
    } catch (SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), at.getParserPosition(), e);
    }
  }

  private TableView view(String table, SqlNode point) {
    Optional<Named> named = named(point);
    if (named.isEmpty()) {
      return lake.at(time(point)).table(table);
    }
    String kind = named.get().kind;
    if (kind.equals("bookmark") && named.get().value instanceof String name) {
      return lake.table(table).atBookmark(name);
    }
    if (named.get().value instanceof Long number) {
      if (kind.equals("version")) {
        return lake.table(table).at(number);
      }
      if (kind.equals("entry")) {
        return lake.atEntry(number).table(table);
      }
    }
    throw text.wrong("A point is a time, " + FORMS + ".", point.getParserPosition(), null);
  }

  private Optional<Named> named(SqlNode point) {
    if (point instanceof SqlBasicCall call
        && call.getOperator() instanceof SqlFunction function
        && function.getSqlIdentifier() != null
        && function.getSqlIdentifier().names.size() == 2
        && function.getSqlIdentifier().names.get(0).equalsIgnoreCase("lake")
        && call.operandCount() == 1) {
      Object value = SqlConstant.of(call.operand(0), text, now);
      boolean isWhole = value instanceof Integer || value instanceof Long;
      return Optional.of(
          new Named(
              function.getSqlIdentifier().names.get(1).toLowerCase(Locale.ROOT),
              isWhole ? Long.valueOf(((Number) value).longValue()) : value));
    }
    return Optional.empty();
  }

  private Instant time(SqlNode point) {
    Object value = SqlConstant.of(point, text, now);
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
        "This is no time. Write a date, a timestamp (in UTC when it has no zone), or "
            + FORMS
            + ".",
        point.getParserPosition(),
        null);
  }
}
