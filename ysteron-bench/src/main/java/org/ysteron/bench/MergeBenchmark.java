package org.ysteron.bench;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.MergeSource;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.report.WriteResult;

/**
 * Upserting 10,000 rows, half of them new, into 1,000,000 by key, against SQLite doing the same,
 * both durably; then 2 million into 10 million, for the heap.
 */
final class MergeBenchmark implements Main.Benchmark {
  private static final List<String> COLUMNS = List.of("id", "gauge_id", "level_cm", "quality");
  private static final String UPSERT =
      "INSERT INTO readings VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET"
          + " gauge_id = excluded.gauge_id, level_cm = excluded.level_cm,"
          + " quality = excluded.quality";
  private static final int ROWS = Size.of(1_000_000, 10_000);
  private static final int LARGE = Size.of(10_000_000, 10_000);
  private static final int HALF = Size.of(5_000, 50);

  private final Random random = new Random(5);
  private long nextNew = ROWS;

  private static Schema schema() {
    return Schema.of(
            Field.of("id", Types.BIGINT),
            Field.of("gauge_id", Types.text(12)),
            Field.of("level_cm", Types.decimal(7, 1)),
            Field.of("quality", Types.text(10)))
        .withKey("id");
  }

  private static Object[] row(long id, long salt) {
    long mixed = ((id * 31 + salt) * 0x9E3779B97F4A7C15L) >>> 40;
    return new Object[] {
      id,
      "ORR-" + id % 40,
      BigDecimal.valueOf(mixed % 9000, 1),
      mixed % 90 == 0 ? "suspect" : "good"
    };
  }

  private List<Object[]> source() {
    List<Object[]> rows = new ArrayList<>();
    for (int i = 0; i < HALF; i++) {
      rows.add(row(nextNew++, 7));
    }
    random.longs(0, ROWS).distinct().limit(HALF).forEach(id -> rows.add(row(id, 9)));
    return rows;
  }

  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory.resolve("lake"));
        Connection sqlite =
            DriverManager.getConnection("jdbc:sqlite:" + directory.resolve("sqlite.db"))) {
      Table table = lake.createTable("bench.readings", schema());
      fill(table, ROWS);
      fill(sqlite);
      List<List<Object[]>> sources = new ArrayList<>();
      Timing timing =
          new Timing()
              .add(
                  "SQLite: upsert %,d rows into %,d".formatted(2 * HALF, ROWS),
                  () -> {
                    sources.add(source());
                    upsert(sqlite, sources.get(sources.size() - 1));
                  })
              .add(
                  "upsert %,d rows into %,d".formatted(2 * HALF, ROWS),
                  () -> upsert(table, sources.get(sources.size() - 1)))
              .run(10, 15);
      compare(table, sqlite);
      boolean kept = Timing.ratio("merge / SQLite", timing.median(1) / timing.median(0), 1);
      if (System.getenv("SKIP_LARGE") == null) {
        large(lake);
      }
      return kept;
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  private static void fill(Table table, int rows) {
    int commits = 10;
    for (int c = 0; c < commits; c++) {
      try (Append append = table.append()) {
        for (long id = (long) rows / commits * c; id < (long) rows / commits * (c + 1); id++) {
          append.add(row(id, 0));
        }
        append.commit();
      }
    }
  }

  private static void fill(Connection sqlite) throws SQLException {
    try (var statement = sqlite.createStatement()) {
      statement.execute("PRAGMA synchronous = FULL");
      statement.execute(
          "CREATE TABLE readings (id INTEGER PRIMARY KEY, gauge_id TEXT, level_cm TEXT,"
              + " quality TEXT)");
    }
    List<Object[]> rows = new ArrayList<>();
    for (long id = 0; id < ROWS; id++) {
      rows.add(row(id, 0));
      if (rows.size() == 100_000) {
        insert(sqlite, rows);
        rows.clear();
      }
    }
    insert(sqlite, rows);
  }

  private static void insert(Connection sqlite, List<Object[]> rows) throws SQLException {
    sqlite.setAutoCommit(false);
    try (PreparedStatement insert = sqlite.prepareStatement(UPSERT)) {
      for (Object[] row : rows) {
        insert.setLong(1, (Long) row[0]);
        insert.setString(2, (String) row[1]);
        insert.setString(3, row[2].toString());
        insert.setString(4, (String) row[3]);
        insert.addBatch();
      }
      insert.executeBatch();
    }
    sqlite.commit();
  }

  private static void upsert(Connection sqlite, List<Object[]> rows) throws IOException {
    try {
      insert(sqlite, rows);
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  private static void upsert(Table table, List<Object[]> rows) {
    WriteResult result =
        table.upsert(MergeSource.values(COLUMNS, target -> rows.forEach(target::add))).run();
    if (result.report().rowsUpdated() != HALF || result.report().rowsInserted() != HALF) {
      throw new IllegalStateException(result.toString());
    }
  }

  private static void compare(Table table, Connection sqlite) throws SQLException {
    try (var statement = sqlite.createStatement();
        var counts =
            statement.executeQuery(
                "SELECT count(*), sum(level_cm) FROM readings WHERE quality = 'good'")) {
      counts.next();
      BigDecimal[] sum = {BigDecimal.ZERO};
      long[] count = {0};
      table
          .scan()
          .where(org.ysteron.expr.Condition.column("quality").equalTo("good"))
          .rows()
          .forEach(
              row -> {
                count[0]++;
                sum[0] = sum[0].add((BigDecimal) row.get("level_cm"));
              });
      boolean same =
          count[0] == counts.getLong(1) && Math.abs(sum[0].doubleValue() - counts.getDouble(2)) < 1;
      if (!same) {
        throw new IllegalStateException("the two differ: " + count[0] + ", " + sum[0]);
      }
    }
  }

  /** Two million rows, half of them new, into ten million. */
  private static void large(Lake lake) {
    Table table = lake.createTable("bench.large", schema());
    fill(table, LARGE);
    long start = System.nanoTime();
    WriteResult result =
        table
            .upsert(
                MergeSource.values(
                    COLUMNS,
                    target -> {
                      for (long i = 0; i < LARGE / 5; i++) {
                        target.add(row(i % 2 == 0 ? i * 5 : LARGE + i, 3));
                      }
                    }))
            .run();
    System.out.printf(
        "upsert %,d rows into %,d: %.1f s, heap at most %d MiB%n  %s%n",
        LARGE / 5,
        LARGE,
        (System.nanoTime() - start) / 1e9,
        Runtime.getRuntime().maxMemory() >> 20,
        result.report());
    if (table.scan().count() != LARGE + LARGE / 10) {
      throw new IllegalStateException("rows are missing");
    }
  }
}
