package org.ysteron.bench;

import com.sun.management.ThreadMXBean;
import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Optional;
import org.ysteron.Lake;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.option.LakeOptions;
import org.ysteron.sql.SqlQuery;
import org.ysteron.store.LocalStore;

/**
 * The 22 queries of TPC-H and some simple ones at scale 1, planned and run, in processor time
 * against DuckDB with one thread on the same files.
 */
final class SqlBenchmark implements Main.Benchmark {
  private static final double SCALE = Size.IS_TINY ? 0.001 : 1;
  private static final int ROUNDS = 5;
  private static final int WARM_UP = 3;

  /** Rounds before those that count of a query with a limit of its own: until it is compiled. */
  private static final int LONG_WARM_UP = 12;

  private static final long MEMORY = 128L << 20;

  private static final String TWO_TEXTS =
      "select l_shipmode, l_shipinstruct, count(*), sum(l_quantity) from lineitem"
          + " where l_shipdate < date '1997-01-01' group by l_shipmode, l_shipinstruct";
  private static final String BY_BIGINT =
      "select l_suppkey, count(*), sum(l_quantity) from lineitem group by l_suppkey";
  private static final String MANY_GROUPS =
      "select l_orderkey, l_linenumber, sum(l_quantity) from lineitem"
          + " group by l_orderkey, l_linenumber having sum(l_quantity) > 49";

  @Override
  public boolean run(Path directory) throws IOException {
    Path path = directory.resolve("lake");
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(1));
        Connection connection = DriverManager.getConnection("jdbc:duckdb:");
        Statement duck = connection.createStatement()) {
      TpchTables.create(lake, SCALE);
      TpchTables.show(lake, path, duck);
      duck.execute("set threads = 1");
      List<String> queries = TpchTables.queries();
      boolean kept = true;
      double ours = 0;
      double theirs = 0;
      for (int q = 0; q < queries.size(); q++) {
        double limit = q == 0 ? 1.5 : q == 5 ? 1.3 : q == 11 ? 2 : 10;
        int before = limit < 10 ? LONG_WARM_UP : WARM_UP;
        Timing timing = measured(lake, duck, "Q" + (q + 1), queries.get(q), before);
        kept &= ratio("Q" + (q + 1), timing, limit);
        theirs += timing.median(0);
        ours += timing.median(1);
      }
      kept &= Timing.ratio("all 22 / DuckDB", ours / theirs, 4);
      kept &=
          ratio(
              "filter, two texts", measured(lake, duck, "two texts", TWO_TEXTS, LONG_WARM_UP), 1.3);
      kept &= ratio("by bigint", measured(lake, duck, "by bigint", BY_BIGINT, LONG_WARM_UP), 1.5);
      kept &= ratio("6 M groups", measured(lake, duck, "6 M groups", MANY_GROUPS, WARM_UP), 10);
      kept &= Timing.ratio("bytes allocated a row by Q6", allocated(lake, queries.get(5)), 1);
      return twoThreads(lake, path, queries.get(0)) && kept;
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  /** Bytes that a planned query allocates for each row of lineitem. */
  private static double allocated(Lake lake, String query) {
    ThreadMXBean threads = (ThreadMXBean) ManagementFactory.getThreadMXBean();
    SqlQuery planned =
        SqlQuery.of(lake.now(), Optional.of(TpchTables.SCHEMA), query, List.of()).within(MEMORY);
    read(planned);
    long before = threads.getCurrentThreadAllocatedBytes();
    read(planned);
    long bytes = threads.getCurrentThreadAllocatedBytes() - before;
    long rows = lake.now().table(TpchTables.SCHEMA + ".lineitem").record().totals().rows();
    return Size.IS_TINY ? 0 : (double) bytes / rows;
  }

  /** The time that passes with two threads, against one. */
  private static boolean twoThreads(Lake one, Path path, String query) throws IOException {
    try (Lake two = Lake.open(new LocalStore(path), LakeOptions.DEFAULTS.threads(2))) {
      Timing timing =
          new Timing()
              .add("Q1, one thread", () -> ours(one, query))
              .add("Q1, two threads", () -> ours(two, query))
              .run(WARM_UP, 2 * ROUNDS + 1);
      double limit = Size.IS_TINY ? 100 : 0.65;
      return Timing.ratio("Q1 with two threads / one", timing.median(1) / timing.median(0), limit);
    }
  }

  private static boolean ratio(String name, Timing timing, double limit) {
    return Timing.ratio(name + " / DuckDB", timing.median(1) / timing.median(0), limit);
  }

  private static Timing measured(Lake lake, Statement duck, String name, String query, int warmUp)
      throws IOException {
    return Timing.ofProcessor()
        .add(name + ", DuckDB", () -> theirs(duck, query))
        .add(name, () -> ours(lake, query))
        .run(warmUp, ROUNDS);
  }

  private static void ours(Lake lake, String query) {
    SqlQuery made =
        SqlQuery.of(lake.now(), Optional.of(TpchTables.SCHEMA), query, List.of()).within(MEMORY);
    read(made);
  }

  private static void read(SqlQuery query) {
    try (Results<Batch> batches = query.batches()) {
      batches.forEach(batch -> {});
    }
  }

  private static void theirs(Statement duck, String query) throws IOException {
    try (ResultSet rows = duck.executeQuery(query)) {
      while (rows.next()) {
        rows.getObject(1);
      }
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }
}
