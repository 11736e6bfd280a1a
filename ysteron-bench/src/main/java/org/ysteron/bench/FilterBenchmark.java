package org.ysteron.bench;

import static org.ysteron.expr.Expression.column;

import com.sun.management.ThreadMXBean;
import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.List;
import java.util.stream.Collectors;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * Filters on six million rows, in processor time against DuckDB with one thread on the same files,
 * and the bytes that a filter allocates for each row that it looks at.
 */
final class FilterBenchmark implements Main.Benchmark {
  /** So often that most is compiled; DuckDB needs none. */
  private static final int WARM_UP = 10;

  private static final Condition Q6 =
      column("shipdate")
          .atLeast(LocalDate.of(1994, 1, 1))
          .and(column("shipdate").lessThan(LocalDate.of(1995, 1, 1)))
          .and(column("discount").between(new BigDecimal("0.05"), new BigDecimal("0.07")))
          .and(column("quantity").lessThan(24));
  private static final String Q6_SQL =
      "shipdate >= date '1994-01-01' and shipdate < date '1995-01-01' and discount between 0.05 and 0.07 and quantity < 24";
  private static final Condition TEXTS =
      column("shipmode").in(List.of("MAIL", "SHIP")).and(column("shipinstruct").equalTo("NONE"));
  private static final String TEXTS_SQL = "shipmode in ('MAIL', 'SHIP') and shipinstruct = 'NONE'";
  private static final Condition SCATTERED = column("partkey").modulo(100).equalTo(7);
  private static final String SCATTERED_SQL = "partkey % 100 = 7";
  private static final Condition COMPUTED =
      column("extendedprice").times(column("discount")).greaterThan(column("quantity").times(100));
  private static final String COMPUTED_SQL = "extendedprice * discount > quantity * 100";

  @Override
  public boolean run(Path directory) throws IOException {
    Path path = directory.resolve("lake");
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(1));
        Connection connection = DriverManager.getConnection("jdbc:duckdb:");
        Statement duck = connection.createStatement()) {
      Table table = LineItems.table(lake, "bench.lineitem", 64L << 20);
      String files =
          table.now().files().stream()
              .map(file -> "'" + path.resolve(file.name()) + "'")
              .collect(Collectors.joining(",", "read_parquet([", "])"));
      duck.execute("set threads = 1");
      long revenue = revenue(table);
      same(duck, "sum(extendedprice * discount) * 10000", files, Q6_SQL, revenue);
      same(duck, "count(*)", files, TEXTS_SQL, table.scan().where(TEXTS).count());
      same(duck, "count(*)", files, SCATTERED_SQL, table.scan().where(SCATTERED).count());
      same(duck, "count(*)", files, COMPUTED_SQL, table.scan().where(COMPUTED).count());
      Timing timing =
          Timing.ofProcessor()
              .add(
                  "Q6 five times, DuckDB",
                  often(() -> ask(duck, "sum(extendedprice * discount)", files, Q6_SQL)))
              .add("Q6 five times", often(() -> revenue(table)))
              .add(
                  "two texts, count, five times, DuckDB",
                  often(() -> ask(duck, "count(*)", files, TEXTS_SQL)))
              .add("two texts, count, five times", often(() -> table.scan().where(TEXTS).count()))
              .add("1 % scattered, 16 columns, DuckDB", () -> take(duck, files, SCATTERED_SQL))
              .add(
                  "1 % scattered, 16 columns",
                  () -> ScanBenchmark.sum(table.scan().where(SCATTERED)))
              .add("computed, count, DuckDB", () -> ask(duck, "count(*)", files, COMPUTED_SQL))
              .add("computed, count", () -> table.scan().where(COMPUTED).count())
              .run(WARM_UP, 9);
      boolean kept = Timing.ratio("Q6 / DuckDB", timing.median(1) / timing.median(0), 1.2);
      kept &= Timing.ratio("two texts / DuckDB", timing.median(3) / timing.median(2), 1.1);
      kept &= Timing.ratio("scattered / DuckDB", timing.median(5) / timing.median(4), 1.1);
      kept &= Timing.ratio("computed / DuckDB", timing.median(7) / timing.median(6), 1.2);
      long rows = table.scan().count();
      kept &=
          Timing.ratio(
              "bytes allocated for each row, two texts", allocated(table, TEXTS, rows), 1.0);
      return Timing.ratio(
              "bytes allocated for each row, computed", allocated(table, COMPUTED, rows), 1.0)
          && kept;
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  /** Work that is short for a clock that counts hundredths of a second. */
  private static Timing.Work often(Timing.Work work) {
    return () -> {
      for (int i = 0; i < 5; i++) {
        work.run();
      }
    };
  }

  private static double allocated(Table table, Condition condition, long rows) {
    ThreadMXBean threads = (ThreadMXBean) ManagementFactory.getThreadMXBean();
    long before = threads.getCurrentThreadAllocatedBytes();
    long found = table.scan().where(condition).count();
    long bytes = threads.getCurrentThreadAllocatedBytes() - before;
    System.out.printf("%d rows found, %d bytes allocated%n", found, bytes);
    return (double) bytes / rows;
  }

  private static long revenue(Table table) {
    long sum = 0;
    try (Results<Batch> batches =
        table.scan().columns("extendedprice", "discount").where(Q6).batches()) {
      for (Batch batch : batches) {
        long[] price = ((Vector.OfLong) batch.vectors().get(0)).values();
        long[] discount = ((Vector.OfLong) batch.vectors().get(1)).values();
        for (int i = 0; i < batch.size(); i++) {
          sum = Math.addExact(sum, Math.multiplyExact(price[i], discount[i]));
        }
      }
    }
    return sum;
  }

  private static void same(Statement duck, String what, String files, String where, long expected)
      throws SQLException {
    String sql = "select cast(" + what + " as bigint) from " + files + " where " + where;
    try (ResultSet result = duck.executeQuery(sql)) {
      result.next();
      if (result.getLong(1) != expected) {
        throw new IllegalStateException(
            "DuckDB finds " + result.getLong(1) + " and we " + expected + ": " + where);
      }
    }
  }

  private static void ask(Statement duck, String what, String files, String where)
      throws IOException {
    execute(duck, "select " + what + " from " + files + " where " + where);
  }

  private static void take(Statement duck, String files, String where) throws IOException {
    execute(duck, "create or replace temp table x as select * from " + files + " where " + where);
  }

  private static void execute(Statement duck, String sql) throws IOException {
    try {
      duck.execute(sql);
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }
}
