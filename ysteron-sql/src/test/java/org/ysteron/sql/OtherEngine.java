package org.ysteron.sql;

import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.regex.Pattern;
import org.ysteron.Lake;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;

/** Another engine that has the rows of some tables with the columns of {@link RandomTables}. */
final class OtherEngine implements AutoCloseable {
  /**
   * What SQLite lacks, or where it means something else: decimals, NaN, letters, sets of groups.
   */
  private static final Pattern NOT_OF_SQLITE =
      Pattern.compile(
          "\\b[dwx]\\b|\\bts\\b|\\btaken\\b|upper|substring|rollup|cube|percentile|var_pop|stddev"
              + "|extract|intersect all|except all|with recursive|distinct .*over|order by i nulls first, b");

  /** DuckDB takes a row with a null in any place for one that may be equal to all others. */
  private static final Pattern NOT_OF_DUCKDB = Pattern.compile("\\) not in \\(select b, i");

  private final Connection connection;
  private final boolean isSqlite;

  private OtherEngine(Connection connection, boolean isSqlite) {
    this.connection = connection;
    this.isSqlite = isSqlite;
  }

  static OtherEngine duckdb(Lake lake, List<String> tables) throws SQLException {
    return new OtherEngine(DriverManager.getConnection("jdbc:duckdb:"), false)
        .with(
            lake,
            tables,
            "create schema r",
            "i integer, b bigint, d decimal(9, 2), w decimal(30, 4), t varchar, x double, taken date, ts timestamp, o boolean");
  }

  static OtherEngine sqlite(Lake lake, List<String> tables) throws SQLException {
    return new OtherEngine(DriverManager.getConnection("jdbc:sqlite::memory:"), true)
        .with(
            lake,
            tables,
            "attach ':memory:' as r",
            "i integer, b integer, d any, w any, t text, x any, taken any, ts any, o integer");
  }

  private OtherEngine with(Lake lake, List<String> tables, String namespace, String columns)
      throws SQLException {
    execute(namespace);
    for (String table : tables) {
      execute("create table %s (%s)".formatted(table, columns));
      fill(lake, table);
    }
    return this;
  }

  void execute(String sql) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      statement.execute(own(sql));
    }
  }

  private void fill(Lake lake, String table) throws SQLException {
    connection.setAutoCommit(false);
    try (PreparedStatement insert =
            connection.prepareStatement(
                "insert into %s values (?, ?, ?, ?, ?, ?, ?, ?, ?)".formatted(table));
        Results<Batch> batches = lake.table(table).scan().batches()) {
      for (Batch batch : batches) {
        for (Row row : batch.rows()) {
          for (int c = 0; c < batch.vectors().size(); c++) {
            Object value = row.get(c);
            boolean asText = isSqlite && !(value instanceof Number) && !(value instanceof Boolean);
            insert.setObject(c + 1, asText && value != null ? value.toString() : value);
          }
          insert.execute();
        }
      }
    }
    connection.commit();
    connection.setAutoCommit(true);
  }

  private String own(String sql) {
    return isSqlite ? sql.replace("char_length(", "length(") : sql;
  }

  /** Whether a query means the same to it. */
  boolean means(String query) {
    return !(isSqlite ? NOT_OF_SQLITE : NOT_OF_DUCKDB).matcher(query).find();
  }

  /** The rows of a query, in an order of their texts. */
  List<String> rows(String query) throws SQLException {
    List<String> found = new ArrayList<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(own(query))) {
      int columns = rows.getMetaData().getColumnCount();
      while (rows.next()) {
        List<String> values = new ArrayList<>();
        for (int c = 1; c <= columns; c++) {
          values.add(text(rows.getObject(c)));
        }
        found.add(values.toString());
      }
    }
    Collections.sort(found);
    return found;
  }

  /** A value as a text that is the same for values that are equal: numbers by value, true as 1. */
  static String text(Object value) {
    if (value instanceof Double number) {
      return number.isNaN() || number.isInfinite()
          ? number.toString()
          : text(new BigDecimal(number));
    }
    if (value instanceof Number number) {
      BigDecimal exact = new BigDecimal(number.toString());
      return exact.signum() == 0 ? "0" : exact.stripTrailingZeros().toPlainString();
    }
    if (value instanceof Boolean truth) {
      return truth ? "1" : "0";
    }
    if (value instanceof java.sql.Timestamp time) {
      return time.toLocalDateTime().toString();
    }
    return value instanceof LocalDateTime time ? time.toString() : String.valueOf(value);
  }

  @Override
  public String toString() {
    return isSqlite ? "SQLite" : "DuckDB";
  }

  @Override
  public void close() throws SQLException {
    connection.close();
  }
}
