package org.ysteron.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayInputStream;
import java.io.StringReader;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Array;
import java.sql.BatchUpdateException;
import java.sql.Connection;
import java.sql.Date;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.sql.SQLTimeoutException;
import java.sql.SQLTransactionRollbackException;
import java.sql.Statement;
import java.sql.Struct;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Calendar;
import java.util.List;
import java.util.Properties;
import java.util.TimeZone;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.Lake;

/** The driver as clients call it. */
class JdbcTest {
  private static final UUID ID = UUID.fromString("0e6f6a3e-3f5b-4c6e-9d3b-3f6f3b1c2d4e");

  @TempDir Path directory;
  private String url;
  private Connection connection;
  private Statement statement;

  @BeforeEach
  void open() throws SQLException {
    Path lake = directory.resolve("a lake");
    Lake.create(lake).close();
    url = "jdbc:ysteron:" + lake.toString().replace(" ", "%20");
    connection = DriverManager.getConnection(url + "?zone=Europe/Oslo&author=ada&schema=tide");
    statement = connection.createStatement();
    statement.execute(
        "CREATE TABLE tide.all_types (id BIGINT PRIMARY KEY, b BOOLEAN, i INTEGER, r REAL, d DOUBLE,"
            + " n DECIMAL(9, 2), v VARCHAR(10) COMMENT 'a text', \"day\" DATE, tm TIME, ts TIMESTAMP,"
            + " tz TIMESTAMP WITH TIME ZONE, bin VARBINARY, u UUID, j JSON, a INTEGER ARRAY,"
            + " s ROW(x INTEGER, y VARCHAR), CHECK (i < 1000))");
  }

  @AfterEach
  void close() throws SQLException {
    connection.close();
  }

  private void insertAll(long id) throws SQLException {
    try (PreparedStatement insert =
        connection.prepareStatement(
            "INSERT INTO all_types VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")) {
      insert.setLong(1, id);
      insert.setBoolean(2, true);
      insert.setInt(3, 7);
      insert.setFloat(4, 1.5f);
      insert.setDouble(5, 2.5);
      insert.setBigDecimal(6, new BigDecimal("12.345"));
      insert.setCharacterStream(7, new StringReader("hæ"));
      insert.setObject(8, LocalDate.of(2026, 3, 1));
      insert.setObject(9, LocalTime.of(1, 2, 3, 456_789_000));
      insert.setTimestamp(10, Timestamp.valueOf("2026-03-01 01:02:03.123456"));
      insert.setTimestamp(11, Timestamp.from(Instant.parse("2026-03-01T00:00:00.000001Z")));
      insert.setBinaryStream(12, new ByteArrayInputStream(new byte[] {1, 2}));
      insert.setObject(13, ID);
      insert.setString(14, "{\"a\": 1}");
      insert.setArray(15, connection.createArrayOf("INTEGER", new Object[] {1, null, 3}));
      insert.setObject(16, connection.createStruct("ROW", new Object[] {5, "z"}));
      assertThat(insert.executeUpdate()).isEqualTo(1);
    }
  }

  @Test
  void valuesOfAllTypesGoInAndComeOut() throws SQLException {
    insertAll(1);

    ResultSet rows = statement.executeQuery("SELECT * FROM all_types");
    assertThat(rows.next()).isTrue();
    assertThat(rows.getLong("ID")).isEqualTo(1);
    assertThat(rows.getBoolean(2)).isTrue();
    assertThat(rows.getInt("i")).isEqualTo(7);
    assertThat(rows.getByte("i")).isEqualTo((byte) 7);
    assertThat(rows.getFloat(4)).isEqualTo(1.5f);
    assertThat(rows.getObject(5)).isEqualTo(2.5);
    assertThat(rows.getBigDecimal(6)).isEqualTo("12.35");
    assertThat(rows.getString("v")).isEqualTo("hæ");
    assertThat(rows.getObject("day")).isEqualTo(Date.valueOf("2026-03-01"));
    assertThat(rows.getObject("day", LocalDate.class)).isEqualTo(LocalDate.of(2026, 3, 1));
    assertThat(rows.getTime("tm").toLocalTime()).isEqualTo(LocalTime.of(1, 2, 3));
    assertThat(rows.getObject("tm")).isInstanceOf(Time.class);
    assertThat(rows.getObject("tm", LocalTime.class)).isEqualTo(LocalTime.of(1, 2, 3, 456_789_000));
    assertThat(rows.getTimestamp("ts")).isEqualTo(Timestamp.valueOf("2026-03-01 01:02:03.123456"));
    assertThat(rows.getObject("ts", LocalDateTime.class))
        .isEqualTo(LocalDateTime.parse("2026-03-01T01:02:03.123456"));
    assertThat(rows.getObject("tz"))
        .isEqualTo(OffsetDateTime.parse("2026-03-01T01:00:00.000001+01:00"));
    assertThat(rows.getTimestamp("tz").toInstant())
        .isEqualTo(Instant.parse("2026-03-01T00:00:00.000001Z"));
    assertThat(rows.getString("tz")).isEqualTo("2026-03-01 01:00:00.000001+01:00");
    Calendar utc = Calendar.getInstance(TimeZone.getTimeZone("UTC"));
    assertThat(rows.getTimestamp("ts", utc).toInstant()).isEqualTo("2026-03-01T01:02:03.123456Z");
    assertThat(rows.getBytes("bin")).containsExactly(1, 2);
    assertThat(rows.getBinaryStream("bin")).hasBinaryContent(new byte[] {1, 2});
    assertThat(rows.getObject("u")).isEqualTo(ID);
    assertThat(rows.getObject("u", String.class)).isEqualTo(ID.toString());
    assertThat(rows.getString("j")).isEqualTo("{\"a\": 1}");
    Array array = rows.getArray("a");
    assertThat((Object[]) array.getArray()).containsExactly(1, null, 3);
    assertThat((Object[]) array.getArray(2, 2)).containsExactly(null, 3);
    assertThat(((Struct) rows.getObject("s")).getAttributes()).containsExactly(5, "z");
    assertThat(rows.getString("s")).isEqualTo("{\"x\":5,\"y\":\"z\"}");
    assertThat(rows.next()).isFalse();
    assertThat(rows.next()).isFalse();
    assertThatThrownBy(() -> rows.getInt(1)).hasMessageContaining("no more rows");
  }

  @Test
  void parametersAreTypedByTheirPlaces() throws SQLException {
    insertAll(1);
    try (PreparedStatement query =
        connection.prepareStatement(
            "SELECT count(*) FROM all_types WHERE ts = ? AND tz = ? AND \"day\" = ? AND u = ? AND n > ? AND v LIKE ? AND 'what?' <> v -- ?")) {
      assertThat(query.getParameterMetaData().getParameterCount()).isEqualTo(6);
      assertThatThrownBy(query::executeQuery).hasMessageContaining("Parameter 1 of 6 has no value");
      query.setTimestamp(1, Timestamp.valueOf("2026-03-01 01:02:03.123456"));
      query.setObject(2, OffsetDateTime.parse("2026-03-01T01:00:00.000001+01:00"));
      query.setDate(3, Date.valueOf("2026-03-01"));
      query.setString(4, ID.toString());
      query.setInt(5, 12);
      query.setString(6, "h%");
      ResultSet rows = query.executeQuery();
      rows.next();
      assertThat(rows.getInt(1)).isEqualTo(1);
      query.setString(6, "' OR 1 = 1 --");
      rows = query.executeQuery();
      rows.next();
      assertThat(rows.getInt(1)).isZero();
      assertThatThrownBy(() -> query.setInt(7, 1)).hasMessageContaining("There is no parameter 7");
      ResultSetMetaData columns = query.getMetaData();
      assertThat(columns.getColumnTypeName(1)).isEqualTo("BIGINT");
    }
    try (PreparedStatement update =
        connection.prepareStatement("UPDATE all_types SET v = ?, tz = ? WHERE id = ?")) {
      update.setNull(1, java.sql.Types.VARCHAR);
      update.setObject(2, Instant.EPOCH);
      update.setObject(3, 1);
      assertThat(update.executeUpdate()).isEqualTo(1);
      assertThat(update.getMetaData()).isNull();
    }
    ResultSet rows = statement.executeQuery("SELECT v, tz, i FROM all_types");
    rows.next();
    assertThat(rows.getString(1)).isNull();
    assertThat(rows.wasNull()).isTrue();
    assertThat(rows.getObject(2, Instant.class)).isEqualTo(Instant.EPOCH);
    assertThat(rows.wasNull()).isFalse();
  }

  @Test
  void aBatchIsOneCommitOrNothing() throws SQLException {
    long before = entries();
    try (PreparedStatement insert =
        connection.prepareStatement("INSERT INTO all_types (id, i) VALUES (?, ?)")) {
      for (int i = 0; i < 1000; i++) {
        insert.setInt(1, i);
        insert.setInt(2, i % 900);
        insert.addBatch();
      }
      assertThat(insert.executeBatch()).hasSize(1000).containsOnly(1);
      assertThat(entries()).isEqualTo(before + 1);
      for (int i = 2000; i < 2010; i++) {
        insert.setInt(1, i);
        insert.setInt(2, i == 2005 ? 5000 : 1);
        insert.addBatch();
      }
      assertThatThrownBy(insert::executeBatch)
          .isInstanceOf(BatchUpdateException.class)
          .hasMessageContaining("nothing of it was done")
          .hasMessageContaining("2005");
    }
    try (PreparedStatement update =
        connection.prepareStatement("UPDATE all_types SET i = ? WHERE id = ?")) {
      for (int i = 0; i < 5; i++) {
        update.setInt(1, i == 3 ? 4000 : 1);
        update.setInt(2, i);
        update.addBatch();
      }
      assertThatThrownBy(update::executeBatch)
          .isInstanceOf(BatchUpdateException.class)
          .hasMessageContaining(
              "Execution 4 of the batch failed, and nothing of the batch was done");
    }
    connection.setAutoCommit(false);
    statement.executeUpdate("UPDATE all_types SET i = 899 WHERE id = 10");
    statement.addBatch("DELETE FROM all_types WHERE id = 1");
    statement.addBatch("INSERT INTO all_types (id) VALUES (2)");
    assertThatThrownBy(statement::executeBatch).hasMessageContaining("Execution 2 of the batch");
    connection.commit();
    connection.setAutoCommit(true);
    assertThat(one("SELECT count(*) FROM all_types")).isEqualTo(1000);
    assertThat(one("SELECT i FROM all_types WHERE id = 10")).isEqualTo(899);
    assertThat(entries()).isEqualTo(before + 2);
  }

  private long entries() throws SQLException {
    return one("SELECT max(entry) FROM lake.versions");
  }

  private long one(String query) throws SQLException {
    try (Statement own = connection.createStatement();
        ResultSet rows = own.executeQuery(query)) {
      assertThat(rows.next()).isTrue();
      return rows.getLong(1);
    }
  }

  @Test
  void transactionsCommitRollBackAndConflict() throws SQLException {
    insertAll(1);
    connection.setAutoCommit(false);
    statement.executeUpdate("INSERT INTO all_types (id) VALUES (2)");
    ResultSet open = statement.executeQuery("SELECT id FROM all_types ORDER BY id");
    assertThat(open.next()).isTrue();
    connection.rollback();
    assertThatThrownBy(open::next).hasMessageContaining("The result is closed");
    try (Connection other = DriverManager.getConnection(url)) {
      assertThat(one("SELECT sum(i) FROM all_types")).isEqualTo(7);
      statement.executeUpdate("INSERT INTO all_types (id, i) SELECT 3, sum(i) FROM all_types");
      other.createStatement().executeUpdate("UPDATE tide.all_types SET i = 8");
      assertThatThrownBy(connection::commit)
          .isInstanceOf(SQLTransactionRollbackException.class)
          .extracting(e -> ((SQLException) e).getSQLState())
          .isEqualTo("40001");
      assertThat(one("SELECT sum(i) FROM all_types")).isEqualTo(8);
      connection.rollback();
      connection.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED);
      assertThat(connection.getTransactionIsolation())
          .isEqualTo(Connection.TRANSACTION_REPEATABLE_READ);
      statement.executeUpdate("INSERT INTO all_types (id, i) SELECT 3, sum(i) FROM all_types");
      other.createStatement().executeUpdate("UPDATE tide.all_types SET i = 9 WHERE id = 1");
      connection.setAutoCommit(true);
    }
    assertThat(one("SELECT sum(i) FROM all_types")).isEqualTo(17);
    assertThatThrownBy(connection::commit).hasMessageContaining("setAutoCommit(false)");
    assertThatThrownBy(connection::setSavepoint)
        .isInstanceOf(SQLFeatureNotSupportedException.class);
    statement.execute("START TRANSACTION");
    statement.executeUpdate("DELETE FROM all_types");
    connection.rollback();
    assertThat(one("SELECT count(*) FROM all_types")).isEqualTo(2);
    assertThat(one("SELECT count(*) FROM lake.versions WHERE author = 'ada'")).isPositive();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      value = {
        "SELEC 1 | 42000",
        "SELECT nope FROM all_types | 42S22",
        "SELECT 1 FROM nope | 42S02",
        "INSERT INTO all_types (id) VALUES (1) | 23505",
        "INSERT INTO all_types (id, i) VALUES (5, 5000) | 23000",
        "INSERT INTO all_types (i) VALUES (5) | 23000",
        "INSERT INTO all_types (id, v) VALUES (5, 'longer than ten') | 23000",
        "CREATE TABLE all_types (a INTEGER) | 42S01",
        "SELECT 1 / (i - 7) FROM all_types | 22012",
        "SELECT CAST(id * 3000000000 AS INTEGER) FROM all_types | 22003",
        "SELECT CAST(v AS INTEGER) FROM all_types | 22000",
        "ROLLBACK TO SAVEPOINT x | 42000",
        "COMMIT | 22000"
      })
  void failuresHaveTheStateOfTheirClass(String sql, String state) throws SQLException {
    insertAll(1);
    assertThatThrownBy(
            () -> {
              if (statement.execute(sql)) {
                statement.getResultSet().next();
              }
            })
        .isInstanceOfSatisfying(
            SQLException.class, e -> assertThat(e.getSQLState()).isEqualTo(state));
    assertThat(one("SELECT count(*) FROM all_types")).isEqualTo(1);
  }

  @Test
  void longStatementsAreCancelledAndTimedOut() throws Exception {
    statement.execute("CREATE TABLE numbers (n BIGINT)");
    try (PreparedStatement insert = connection.prepareStatement("INSERT INTO numbers VALUES (?)")) {
      for (int i = 0; i < 20_000; i++) {
        insert.setInt(1, i);
        insert.addBatch();
      }
      insert.executeBatch();
    }
    String slow =
        "SELECT count(*) FROM numbers a JOIN numbers b ON a.n + b.n > a.n * 2 JOIN numbers c ON c.n < b.n + a.n";
    List<Long> cancelled = new ArrayList<>();
    Thread canceller =
        new Thread(
            () -> {
              try {
                Thread.sleep(700);
                cancelled.add(System.nanoTime());
                statement.cancel();
              } catch (InterruptedException | SQLException e) {
                throw new IllegalStateException(e);
              }
            });
    canceller.start();
    assertThatThrownBy(() -> statement.executeQuery(slow).next())
        .isInstanceOf(SQLTimeoutException.class)
        .hasMessageContaining("cancelled");
    long after = (System.nanoTime() - cancelled.get(0)) / 1_000_000;
    canceller.join();
    assertThat(after).isLessThan(1000); // 200 ms on a machine that does nothing else
    assertThat(one("SELECT count(*) FROM numbers")).isEqualTo(20_000);

    statement.setQueryTimeout(1);
    assertThatThrownBy(() -> statement.executeQuery(slow).next())
        .isInstanceOf(SQLTimeoutException.class)
        .hasMessageContaining("time limit");
    statement.setQueryTimeout(0);
    connection.setNetworkTimeout(null, 300);
    assertThatThrownBy(() -> statement.executeQuery(slow).next())
        .isInstanceOf(SQLTimeoutException.class);
    connection.setNetworkTimeout(null, 0);
    connection.setAutoCommit(false);
    statement.executeUpdate("DELETE FROM numbers WHERE n < 10");
    statement.setQueryTimeout(1);
    assertThatThrownBy(
            () -> statement.executeUpdate("DELETE FROM numbers WHERE n IN (" + slow + ")"))
        .isInstanceOf(SQLTimeoutException.class);
    connection.commit(); // what was done before is there
    assertThat(one("SELECT count(*) FROM numbers")).isEqualTo(19_990);
  }

  @Test
  void whatIsClosedSaysSo() throws Exception {
    ResultSet rows = statement.executeQuery("VALUES (1), (2)");
    statement.executeQuery("VALUES (3)");
    assertThatThrownBy(rows::next).hasMessageContaining("The result is closed");
    statement.close();
    assertThatThrownBy(() -> statement.executeQuery("VALUES (1)"))
        .hasMessageContaining("The statement is closed");
    Statement other = connection.createStatement();
    assertThat(connection.isValid(1)).isTrue();
    connection.close();
    connection.close();
    assertThat(connection.isValid(1)).isFalse();
    assertThat(other.isClosed()).isTrue();
    assertThatThrownBy(() -> connection.createStatement())
        .hasMessageContaining("The connection is closed")
        .extracting(e -> ((SQLException) e).getSQLState())
        .isEqualTo("08003");
    Connection aborted = DriverManager.getConnection(url);
    aborted.abort(Runnable::run);
    assertThat(aborted.isClosed()).isTrue();
  }

  @Test
  void aConnectionIsForOneThreadAtATime() throws Exception {
    statement.execute("CREATE TABLE numbers AS SELECT n FROM (VALUES (1), (2), (3)) AS s (n)");
    List<String> told = new ArrayList<>();
    String slow =
        "SELECT count(*) FROM numbers a, numbers b, numbers c, numbers d, numbers e, numbers f, numbers g, numbers h, numbers i, numbers j, numbers k, numbers l, numbers m, numbers o, numbers p";
    Thread other =
        new Thread(
            () -> {
              try {
                Thread.sleep(500);
                connection.createStatement().executeQuery("VALUES (1)");
              } catch (InterruptedException | SQLException e) {
                told.add(e.getMessage());
              }
              try {
                statement.cancel();
              } catch (SQLException e) {
                told.add(e.getMessage());
              }
            });
    other.start();
    assertThatThrownBy(() -> statement.executeQuery(slow).next()).hasMessageContaining("cancelled");
    other.join();
    assertThat(told).hasSize(1).allMatch(what -> what.contains("in use by thread"));
  }

  @Test
  void metadataTellsTablesColumnsAndKeys() throws SQLException {
    var data = connection.getMetaData();
    ResultSet tables = data.getTables(null, "ti%", "all\\_types", new String[] {"TABLE"});
    assertThat(tables.next()).isTrue();
    assertThat(tables.getString("TABLE_SCHEM")).isEqualTo("tide");
    assertThat(tables.next()).isFalse();
    ResultSet columns = data.getColumns(null, "tide", "all_types", "%");
    List<String> told = new ArrayList<>();
    while (columns.next()) {
      told.add(
          "%s %s(%d, %d) %s %s"
              .formatted(
                  columns.getString("COLUMN_NAME"),
                  columns.getString("TYPE_NAME"),
                  columns.getInt("COLUMN_SIZE"),
                  columns.getInt("DECIMAL_DIGITS"),
                  columns.getString("IS_NULLABLE"),
                  columns.getString("REMARKS")));
    }
    assertThat(told).hasSize(16);
    assertThat(told)
        .contains(
            "id BIGINT(19, 0) NO null", "n DECIMAL(9, 2) YES null", "v VARCHAR(10, 0) YES a text");
    ResultSet keys = data.getPrimaryKeys(null, "tide", "all_types");
    assertThat(keys.next()).isTrue();
    assertThat(keys.getString("COLUMN_NAME")).isEqualTo("id");
    assertThat(data.getIndexInfo(null, "tide", "all_types", false, true).next()).isFalse();
    assertThat(data.getImportedKeys(null, "tide", "all_types").next()).isFalse();
    assertThat(data.getProcedures(null, "lake", "comp%").next()).isTrue();
    assertThat(data.getTypeInfo().next()).isTrue();
    ResultSet schemas = data.getSchemas();
    List<String> names = new ArrayList<>();
    while (schemas.next()) {
      names.add(schemas.getString(1));
    }
    assertThat(names).containsExactly("information_schema", "lake", "tide");
  }

  /** Every list that JDBC asks for has its columns, be there rows in it or none. */
  @Test
  void allListsOfMetadataAreThere() throws Exception {
    var data = connection.getMetaData();
    int lists = 0;
    for (var method : java.sql.DatabaseMetaData.class.getMethods()) {
      Object[] arguments = new Object[method.getParameterCount()];
      for (int i = 0; i < arguments.length; i++) {
        Class<?> type = method.getParameterTypes()[i];
        arguments[i] = type == int.class ? 0 : type == boolean.class ? false : null;
        arguments[i] = type == String.class && i == 2 ? "all_types" : arguments[i];
      }
      if (!java.lang.reflect.Modifier.isStatic(method.getModifiers())
          && method.getDeclaringClass() == java.sql.DatabaseMetaData.class
          && !method.isDefault()) {
        Object given = method.invoke(data, arguments);
        if (given instanceof ResultSet rows) {
          assertThat(rows.getMetaData().getColumnCount()).as(method.getName()).isPositive();
          lists++;
        }
      }
    }
    assertThat(lists).isGreaterThan(25);
  }

  @ParameterizedTest
  @CsvSource({
    "zone=Nowhere, no time zone",
    "isolation=none, serializable or snapshot",
    "memory=much, number of MiB",
    "read-only=maybe, true or false",
    "schem=tide, Did you mean schema",
    "as-of=2026-03-01T00:00:00Z, there was no lake"
  })
  void wrongPropertiesAreRefused(String property, String told) {
    assertThatThrownBy(() -> DriverManager.getConnection(url + "?" + property))
        .isInstanceOf(SQLException.class)
        .hasMessageContaining(told);
  }

  @Test
  void propertiesHoldForTheConnection() throws SQLException {
    insertAll(1);
    statement.execute("CALL lake.bookmark('then')");
    statement.executeUpdate("DELETE FROM all_types");
    Properties info = new Properties();
    info.setProperty("as-of", "lake.bookmark('then')");
    info.setProperty("schema", "tide");
    try (Connection then = DriverManager.getConnection(url + "?memory=64", info)) {
      ResultSet rows = then.createStatement().executeQuery("SELECT count(*) FROM all_types");
      rows.next();
      assertThat(rows.getInt(1)).isEqualTo(1);
      assertThatThrownBy(() -> then.createStatement().execute("DELETE FROM all_types"))
          .hasMessageContaining("the past");
    }
    try (Connection reading = DriverManager.getConnection(url + "?read-only=true")) {
      assertThatThrownBy(() -> reading.createStatement().execute("DELETE FROM tide.all_types"))
          .extracting(e -> ((SQLException) e).getSQLState())
          .isEqualTo("25006");
    }
    assertThatThrownBy(() -> DriverManager.getConnection("jdbc:ysteron:/nowhere/at/all"))
        .isInstanceOf(SQLException.class);
    assertThatThrownBy(() -> DriverManager.getConnection("jdbc:ysteron:"))
        .hasMessageContaining("names no lake");
  }
}
