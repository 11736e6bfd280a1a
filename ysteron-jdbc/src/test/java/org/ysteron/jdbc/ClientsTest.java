package org.ysteron.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLTransactionRollbackException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import org.jooq.DSLContext;
import org.jooq.Record;
import org.jooq.SQLDialect;
import org.jooq.impl.DSL;
import org.jooq.impl.SQLDataType;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.jdbc.BadSqlGrammarException;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.jdbc.datasource.DataSourceTransactionManager;
import org.springframework.jdbc.datasource.DriverManagerDataSource;
import org.springframework.transaction.support.TransactionTemplate;
import org.ysteron.Lake;
import schemacrawler.schema.Catalog;
import schemacrawler.schemacrawler.SchemaCrawlerOptionsBuilder;
import schemacrawler.tools.utility.SchemaCrawlerUtility;
import sqlline.SqlLine;
import us.fatehi.utility.datasource.DatabaseConnectionSources;

/** Programs that were written for any database. */
class ClientsTest {
  @TempDir Path directory;
  private String url;

  @BeforeEach
  void create() {
    Path lake = directory.resolve("lake");
    Lake.create(lake).close();
    url = "jdbc:ysteron:" + lake + "?schema=tide";
  }

  @Test
  void sqllineRunsAScript() throws Exception {
    Path script = directory.resolve("script.sql");
    Files.writeString(
        script,
        """
        !set silent true
        !set outputformat csv
        !connect %s ada ""
        CREATE TABLE tide.gauges (id VARCHAR(10) PRIMARY KEY, name VARCHAR);
        INSERT INTO tide.gauges VALUES ('ORR-01', 'Orrinmouth pier'), ('ORR-02', 'Skelwick pier');
        MERGE INTO tide.gauges AS t USING (VALUES ('ORR-02', 'Skelwick')) AS s (id, name)
          ON t.id = s.id WHEN MATCHED THEN UPDATE SET name = s.name;
        SELECT id, name FROM gauges ORDER BY id;
        !tables
        !quit
        """
            .formatted(url));
    ByteArrayOutputStream printed = new ByteArrayOutputStream();
    PrintStream out = new PrintStream(printed, true, StandardCharsets.UTF_8);
    SqlLine line = new SqlLine();
    line.setOutputStream(out);
    line.setErrorStream(out);

    line.begin(new String[] {"--run=" + script}, new ByteArrayInputStream(new byte[0]), false);

    assertThat(printed.toString(StandardCharsets.UTF_8))
        .contains("'ORR-01','Orrinmouth pier'")
        .contains("'ORR-02','Skelwick'")
        .contains("gauges")
        .doesNotContain("Error");
  }

  @Test
  void aPoolHandsConnectionsToManyThreads() throws Exception {
    HikariConfig config = new HikariConfig();
    config.setJdbcUrl(url);
    config.setMaximumPoolSize(4);
    AtomicLong done = new AtomicLong();
    List<Throwable> failed = new ArrayList<>();
    try (HikariDataSource pool = new HikariDataSource(config)) {
      try (Connection connection = pool.getConnection()) {
        connection.createStatement().execute("CREATE TABLE tide.counts (n BIGINT)");
      }
      List<Thread> threads = new ArrayList<>();
      for (int t = 0; t < 8; t++) {
        Thread thread =
            new Thread(
                () -> {
                  for (int i = 0; i < 3; i++) {
                    try (Connection connection = pool.getConnection()) {
                      connection.createStatement().executeUpdate("INSERT INTO counts VALUES (1)");
                      done.incrementAndGet();
                    } catch (Exception e) {
                      synchronized (failed) {
                        failed.add(e);
                      }
                    }
                  }
                });
        threads.add(thread);
        thread.start();
      }
      for (Thread thread : threads) {
        thread.join();
      }
      assertThat(failed).isEmpty();
      assertThat(new JdbcTemplate(pool).queryForObject("SELECT count(*) FROM counts", Long.class))
          .isEqualTo(done.get())
          .isEqualTo(24);
    }
  }

  @Test
  void springReadsAndWritesAllTypes() {
    DriverManagerDataSource source = new DriverManagerDataSource(url);
    JdbcTemplate template = new JdbcTemplate(source);
    template.execute(
        "CREATE TABLE tide.t (id BIGINT PRIMARY KEY, b BOOLEAN, n DECIMAL(9, 2), d DOUBLE, v VARCHAR, \"day\" DATE, tm TIME, ts TIMESTAMP, tz TIMESTAMP WITH TIME ZONE, u UUID, bin VARBINARY)");
    Object[] row = {
      1L,
      true,
      new BigDecimal("12.50"),
      2.5,
      "text",
      LocalDate.of(2026, 3, 1),
      LocalTime.of(1, 2, 3),
      LocalDateTime.of(2026, 3, 1, 1, 2, 3),
      OffsetDateTime.of(2026, 3, 1, 0, 0, 0, 1000, ZoneOffset.UTC),
      new UUID(1, 2),
      new byte[] {1}
    };
    assertThat(template.update("INSERT INTO t VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", row))
        .isEqualTo(1);
    Object[] read =
        template.queryForObject(
            "SELECT * FROM t WHERE id = ?",
            (rows, number) -> {
              Object[] values = new Object[row.length];
              for (int i = 0; i < values.length; i++) {
                values[i] = rows.getObject(i + 1, row[i].getClass());
              }
              return values;
            },
            1);
    assertThat(read).usingRecursiveComparison().isEqualTo(row);
    template.batchUpdate(
        "INSERT INTO t (id, v) VALUES (?, ?)",
        List.of(new Object[] {2, "b"}, new Object[] {3, null}));
    assertThat(template.queryForList("SELECT v FROM t ORDER BY id", String.class))
        .containsExactly("text", "b", null);
    assertThatThrownBy(() -> template.update("INSERT INTO t (id) VALUES (1)"))
        .isInstanceOf(DuplicateKeyException.class);
    assertThatThrownBy(() -> template.update("INSERT INTO nope (id) VALUES (1)"))
        .isInstanceOf(BadSqlGrammarException.class);
    TransactionTemplate transaction =
        new TransactionTemplate(new DataSourceTransactionManager(source));
    assertThatThrownBy(
            () ->
                transaction.executeWithoutResult(
                    status -> {
                      template.queryForObject("SELECT count(*) FROM t", Long.class);
                      template.update("DELETE FROM t WHERE id = 2");
                      new JdbcTemplate(new DriverManagerDataSource(url))
                          .update("UPDATE t SET v = 'other' WHERE id = 1");
                    }))
        .cause()
        .isInstanceOf(SQLTransactionRollbackException.class);
    assertThat(template.queryForObject("SELECT count(*) FROM t", Long.class)).isEqualTo(3);
  }

  @Test
  void jooqReadsAndWritesAllTypes() throws Exception {
    try (Connection connection = DriverManager.getConnection(url)) {
      DSLContext jooq = DSL.using(connection, SQLDialect.DEFAULT);
      var table = DSL.table(DSL.name("tide", "t"));
      var id = DSL.field(DSL.name("id"), SQLDataType.BIGINT);
      var name = DSL.field(DSL.name("name"), SQLDataType.VARCHAR(20));
      var level = DSL.field(DSL.name("level"), SQLDataType.DECIMAL(7, 1));
      var day = DSL.field(DSL.name("on_day"), SQLDataType.LOCALDATE);
      var time = DSL.field(DSL.name("at_time"), SQLDataType.LOCALDATETIME);
      jooq.createTable(table)
          .column(id, SQLDataType.BIGINT.nullable(false))
          .column(name)
          .column(level)
          .column(day)
          .column(time)
          .primaryKey(id)
          .execute();
      LocalDateTime then = LocalDateTime.of(2026, 3, 1, 12, 0, 0, 1000);
      jooq.insertInto(table, id, name, level, day, time)
          .values(1L, "it's", new BigDecimal("1.5"), then.toLocalDate(), then)
          .values(2L, "100%", null, null, null)
          .execute();
      assertThat(jooq.update(table).set(level, level.plus(1)).where(id.eq(1L)).execute())
          .isEqualTo(1);
      Record one = jooq.select(id, name, level, day, time).from(table).where(id.eq(1L)).fetchOne();
      assertThat(one.get(name)).isEqualTo("it's");
      assertThat(one.get(level)).isEqualByComparingTo("2.5");
      assertThat(one.get(day)).isEqualTo(then.toLocalDate());
      assertThat(one.get(time)).isEqualTo(then);
      assertThat(jooq.fetchCount(table, name.like("%0!%%", '!'))).isEqualTo(1);
      assertThat(jooq.fetchCount(table, name.in("a", "it's"))).isEqualTo(1);
      assertThat(jooq.select(DSL.count(), DSL.max(level)).from(table).fetchOne(0, int.class))
          .isEqualTo(2);
      jooq.transaction(
          in -> {
            in.dsl().deleteFrom(table).where(id.eq(2L)).execute();
            in.dsl().insertInto(table, id).values(3L).execute();
          });
      assertThat(jooq.select(id).from(table).orderBy(id).fetch(id)).containsExactly(1L, 3L);
      assertThat(jooq.meta().getTables(DSL.name("tide", "t")).get(0).fields()).hasSize(5);
    }
  }

  @Test
  void aDocumenterReadsTheMetadata() throws Exception {
    try (Connection connection = DriverManager.getConnection(url)) {
      connection
          .createStatement()
          .execute(
              "CREATE TABLE tide.gauges (id VARCHAR(10) PRIMARY KEY, depth DECIMAL(5, 1) NOT NULL COMMENT 'in metres')");
    }
    Catalog catalog =
        SchemaCrawlerUtility.getCatalog(
            DatabaseConnectionSources.newDatabaseConnectionSource(
                url,
                new us.fatehi.utility.datasource.UserCredentials() {
                  @Override
                  public void clearPassword() {}

                  @Override
                  public String getPassword() {
                    return "";
                  }

                  @Override
                  public String getUser() {
                    return "ada";
                  }

                  @Override
                  public boolean hasPassword() {
                    return false;
                  }

                  @Override
                  public boolean hasUser() {
                    return true;
                  }
                }),
            SchemaCrawlerOptionsBuilder.newSchemaCrawlerOptions());
    var tables =
        catalog.getTables().stream().filter(table -> table.getName().equals("gauges")).toList();
    assertThat(tables).hasSize(1);
    assertThat(tables.get(0).getPrimaryKey().getConstrainedColumns().toString()).contains("id");
    assertThat(tables.get(0).lookupColumn("depth").orElseThrow().getRemarks())
        .isEqualTo("in metres");
    assertThat(tables.get(0).lookupColumn("depth").orElseThrow().isNullable()).isFalse();
  }

  /** A hundred connections read beside two writers: each result is of one state. */
  @Test
  void eachResultIsOfOneState() throws Exception {
    try (Connection connection = DriverManager.getConnection(url)) {
      connection
          .createStatement()
          .execute("CREATE TABLE tide.accounts (id BIGINT PRIMARY KEY, amount BIGINT)");
      connection
          .createStatement()
          .execute("INSERT INTO accounts VALUES (1, 1000), (2, 1000), (3, 1000), (4, 1000)");
    }
    AtomicBoolean ends = new AtomicBoolean();
    List<Throwable> failed = new ArrayList<>();
    AtomicLong read = new AtomicLong();
    List<Thread> writers = new ArrayList<>();
    for (int w = 0; w < 2; w++) {
      int from = w + 1;
      writers.add(
          new Thread(
              () -> {
                try (Connection connection = DriverManager.getConnection(url)) {
                  while (!ends.get()) {
                    connection
                        .createStatement()
                        .executeUpdate(
                            "UPDATE accounts SET amount = amount + CASE WHEN id = %d THEN -1 ELSE 1 END WHERE id IN (%d, %d)"
                                .formatted(from, from, from + 2));
                  }
                } catch (Exception e) {
                  synchronized (failed) {
                    failed.add(e);
                  }
                }
              }));
    }
    List<Thread> readers = new ArrayList<>();
    for (int r = 0; r < 100; r++) {
      readers.add(
          new Thread(
              () -> {
                try (Connection connection = DriverManager.getConnection(url);
                    var rows =
                        connection
                            .createStatement()
                            .executeQuery("SELECT sum(amount), count(*) FROM accounts")) {
                  rows.next();
                  if (rows.getLong(1) != 4000 || rows.getInt(2) != 4) {
                    throw new AssertionError(rows.getLong(1) + " in " + rows.getInt(2));
                  }
                  read.incrementAndGet();
                } catch (Throwable e) {
                  synchronized (failed) {
                    failed.add(e);
                  }
                }
              }));
    }
    writers.forEach(Thread::start);
    readers.forEach(Thread::start);
    for (Thread reader : readers) {
      reader.join();
    }
    ends.set(true);
    for (Thread writer : writers) {
      writer.join();
    }
    assertThat(failed).isEmpty();
    assertThat(read).hasValue(100);
  }
}
