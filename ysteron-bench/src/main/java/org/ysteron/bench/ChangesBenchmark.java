package org.ysteron.bench;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.Transaction;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeBatch;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;

/**
 * Changes between versions of a table of six million rows and 16 columns, against one full scan;
 * one thread, processor time; and against DuckDB, which compares both versions, exported, as sets.
 */
final class ChangesBenchmark implements Main.Benchmark {
  private static final long ORDER_KEYS = Size.of(6_000_000, 60_000);
  private static final int OFTEN = 20;
  private static final long PART_KEYS = Size.of(200_000, 2_000);

  @Override
  public boolean run(Path directory) throws IOException {
    LakeOptions one = LakeOptions.DEFAULTS.threads(1);
    try (Lake lake = Lake.create(directory.resolve("lake"), one)) {
      Table table = LineItems.table(lake, "bench.lineitem", 16L << 20);
      TableView loaded = table.now();
      table.delete().where(scattered(0)).style(ChangeStyle.MASK).run();
      TableView masked = table.now();
      update(table, column("orderkey").between(ORDER_KEYS / 2, ORDER_KEYS / 2 + ORDER_KEYS / 100));
      TableView clustered = table.now();
      update(table, scattered(1));
      TableView scattered = table.now();
      table.compact().full().run();
      TableView packed = table.now();
      System.out.println(
          "%d data files, %d after packing"
              .formatted(scattered.files().size(), packed.files().size()));
      Timing timing =
          Timing.ofProcessor()
              .add("full scan, 16 columns", () -> ScanBenchmark.sum(loaded.scan()))
              .add(
                  "counts, 1 % masked, 20 times",
                  () -> often(() -> loaded.changesTo(masked).count()))
              .add("counts, everything packed", () -> scattered.changesTo(packed).count())
              .add(
                  "values, 1 % updated together, 20 times",
                  () -> often(() -> values(masked, clustered)))
              .add("values, 1 % updated everywhere", () -> values(clustered, scattered))
              .add("values, the same and packed", () -> values(clustered, packed))
              .add("both versions, 1 % different", () -> both(clustered, scattered))
              .run(3, 9);
      double scan = timing.median(0);
      boolean kept =
          Timing.ratio("counts after 1 % masked / scan", timing.median(1) / OFTEN / scan, 0.03);
      kept &= Timing.ratio("counts after packing / scan", timing.median(2) / scan, 0.3);
      kept &= Timing.ratio("values, together / scan", timing.median(3) / OFTEN / scan, 0.05);
      kept &= Timing.ratio("values, everywhere / scan", timing.median(4) / scan, 1.1);
      kept &= Timing.ratio("values, packed / scan", timing.median(5) / scan, 1.3);
      kept &= Timing.ratio("both versions / one scan", timing.median(6) / scan, 1.3);
      kept &= moves(directory.resolve("moves"));
      TableView empty = table.at(0);
      Path first = directory.resolve("first.parquet");
      Path second = directory.resolve("second.parquet");
      Path third = directory.resolve("third.parquet");
      empty.changesTo(masked).writeParquet(first);
      empty.changesTo(clustered).writeParquet(second);
      empty.changesTo(scattered).writeParquet(third);
      Timing except = except(first, second, third);
      kept &=
          Timing.ratio(
              "values, together / EXCEPT", timing.median(3) / OFTEN / except.median(0), 0.05);
      return Timing.ratio("values, everywhere / EXCEPT", timing.median(4) / except.median(1), 0.3)
          && kept;
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  /** Commits of one row, and the same that move a position of a reader of another table, too. */
  private static boolean moves(Path directory) throws IOException {
    Schema schema = Schema.of(Field.of("n", Types.BIGINT));
    try (Lake lake = Lake.create(directory)) {
      Table source = lake.createTable("bench.source", schema);
      lake.createTable("bench.target", schema);
      lake.setPosition("reader", "bench.source");
      Timing timing =
          new Timing()
              .add("commit of a row, beside another one", () -> commit(lake, source, false))
              .add("the same, which moves a position", () -> commit(lake, source, true))
              .run(100, 301);
      double commit = timing.median(0) / 2;
      return Timing.ratio(
          "commit that moves a position / without", (timing.median(1) - commit) / commit, 1.2);
    }
  }

  private static void commit(Lake lake, Table source, boolean moves) {
    try (Append append = source.append()) {
      append.add(1L).commit();
    }
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      work.table("bench.target").add(2L);
      if (moves) {
        work.position("reader").move();
      }
      work.commit();
    }
  }

  /** DuckDB's EXCEPT both ways over states that were exported, one thread. */
  private static Timing except(Path first, Path second, Path third)
      throws IOException, SQLException {
    try (Connection connection = DriverManager.getConnection("jdbc:duckdb:");
        Statement statement = connection.createStatement()) {
      statement.execute("SET threads = 1");
      return Timing.ofProcessor()
          .add("DuckDB EXCEPT, updated together", () -> except(statement, first, second))
          .add("DuckDB EXCEPT, updated everywhere", () -> except(statement, second, third))
          .run(0, 3);
    }
  }

  private static void except(Statement statement, Path one, Path other) throws IOException {
    try {
      long rows = count(statement, one, other) + count(statement, other, one);
      if (rows < ORDER_KEYS / 150) {
        throw new IllegalStateException("only " + rows + " rows differ");
      }
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  private static long count(Statement statement, Path of, Path without) throws SQLException {
    String rows = "SELECT * EXCLUDE (change, serial) FROM read_parquet('%s')";
    String sql =
        "SELECT count(*) FROM (%s EXCEPT %s)"
            .formatted(rows.formatted(of), rows.formatted(without));
    try (ResultSet result = statement.executeQuery(sql)) {
      result.next();
      return result.getLong(1);
    }
  }

  /** What takes so little time that it would be noise once. */
  private static void often(Runnable work) {
    for (int i = 0; i < OFTEN; i++) {
      work.run();
    }
  }

  /** One hundredth of the rows, in all files. */
  private static Condition scattered(int part) {
    long from = 1 + part * PART_KEYS / 100;
    return column("partkey").between(from, from + PART_KEYS / 100 - 1);
  }

  private static void update(Table table, Condition condition) {
    table.update().where(condition).style(ChangeStyle.MASK).set("linestatus", "X").run();
  }

  private static void both(TableView from, TableView to) {
    long sum = 0;
    try (Results<ChangeBatch> batches = from.changesTo(to).withUnchanged().batches()) {
      for (ChangeBatch batch : batches) {
        if (batch.after() != null) {
          sum += Sums.of(batch.after());
        }
      }
    }
    if (sum == 0) {
      throw new IllegalStateException("no rows");
    }
  }

  private static void values(TableView from, TableView to) {
    AtomicLong rows = new AtomicLong();
    try (Results<ChangeBatch> batches = from.changesTo(to).batches()) {
      batches.forEach(batch -> rows.addAndGet(batch.size()));
    }
    if (rows.get() < ORDER_KEYS / 150) {
      throw new IllegalStateException("only " + rows + " rows differ");
    }
  }
}
