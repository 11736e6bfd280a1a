package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.stream.LongStream;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.MergeSource;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.store.LocalStore;

/**
 * What it costs that every write tests the primary key: against an upsert, against an append to a
 * table without a key, against a scan of the key columns, and beside other writers.
 */
final class KeysBenchmark implements Main.Benchmark {
  private static final int SOME = Size.of(10_000, 100);
  private static final int ORDERED = Size.of(500_000, 1_000);
  private static final int LARGE = Size.of(20_000_000, 40_000);
  private static final int MANY = Size.of(1_000_000, 10_000);
  private static final int WRITERS = 8;
  private static final int ROUNDS_OF_WRITERS = Size.of(20, 1);

  private static final int EACH = Size.of(5_000, 50);
  private static final int TIMES = Size.of(40, 2);

  private final Random random = new Random(5);
  private int tables;

  private static Schema schema() {
    return Schema.of(
        Field.of("id", Types.BIGINT),
        Field.of("gauge_id", Types.text(12)),
        Field.of("level", Types.DOUBLE));
  }

  private static Object[] row(long id) {
    return new Object[] {id, "ORR-" + id % 40, (id * 31 % 9000) / 10.0};
  }

  private Table table(Lake lake, boolean keyed, String rule) {
    Schema schema = keyed ? schema().withKey("id") : schema();
    TableSettings settings = TableSettings.DEFAULTS.with(TableSettings.KEY_TEST, rule);
    return lake.createTable("bench.t" + tables++, schema, settings);
  }

  private static void append(Table table, Iterable<Long> ids) {
    try (Append append = table.append()) {
      for (long id : ids) {
        append.add(row(id));
      }
      append.commit();
    }
  }

  private static void append(Table table, long from, long to, long step) {
    try (Append append = table.append()) {
      for (long id = from; id < to; id += step) {
        append.add(row(id));
      }
      append.commit();
    }
  }

  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory.resolve("lake"))) {
      boolean kept = againstUpsert(lake);
      kept &= inOrder(lake);
      kept &= besideOthers(lake);
      kept &= byLayout(directory.resolve("laid-out"));
      return manyIntoMore(lake) && kept;
    }
  }

  /** Rows of random keys in 64 files each: which of them are opened to test one more. */
  private boolean byLayout(Path directory) throws IOException {
    LocalStore local = new LocalStore(directory);
    CountingStore store = new CountingStore(local);
    try (Lake lake = Lake.create(store)) {
      Table plain = table(lake, true, "exact");
      Table laidOut = table(lake, true, "exact");
      laidOut.alter().layout(LayoutPlan.none().rule("hash id into 64")).run();
      for (int file = 0; file < 64; file++) {
        append(plain, scattered((long) EACH * file, EACH));
      }
      append(laidOut, scattered(0, 64 * EACH));
      double[] opened = new double[2];
      double[] millis = new double[2];
      for (int i = 0; i < TIMES; i++) {
        for (int t = 0; t < 2; t++) {
          long before = store.opened();
          long start = System.nanoTime();
          append(t == 0 ? plain : laidOut, scattered(64L * EACH + i, 1));
          millis[t] += (System.nanoTime() - start) / 1e6 / TIMES;
          opened[t] += (store.opened() - before) / (double) TIMES;
        }
      }
      System.out.printf(
          "one row of a random key: %.1f data files opened, %.1f ms; laid out by hash %.1f, %.1f ms%n",
          opened[0], millis[0], opened[1], millis[1]);
      return Timing.ratio("files opened, laid out by hash / not", opened[1] / opened[0], 0.1);
    } finally {
      local.close();
    }
  }

  /** Even numbers in no order, each once. */
  private static List<Long> scattered(long from, int count) {
    return LongStream.range(from, from + count)
        .mapToObj(i -> 2 * (i * 7_368_787L % LARGE))
        .toList();
  }

  /** Rows of new keys among those that are there, appended and upserted. */
  private boolean againstUpsert(Lake lake) throws IOException {
    Table appended = table(lake, true, "exact");
    Table upserted = table(lake, true, "exact");
    for (Table table : List.of(appended, upserted)) {
      for (int part = 0; part < 10; part++) {
        append(table, MANY / 5L * part, MANY / 5L * (part + 1), 2);
      }
    }
    List<Long> ids =
        random.longs(0, MANY).distinct().limit(25L * SOME).map(i -> 2 * i + 1).boxed().toList();
    int[] next = {0, 0};
    Timing timing =
        new Timing()
            .add(
                "upsert %,d new rows into %,d".formatted(SOME, MANY),
                () -> {
                  List<Long> some = ids.subList(next[0], next[0] += SOME);
                  upserted
                      .upsert(
                          MergeSource.values(
                              List.of("id", "gauge_id", "level"),
                              to -> some.forEach(id -> to.add(row(id)))))
                      .run();
                })
            .add(
                "append %,d new rows into %,d".formatted(SOME, MANY),
                () -> append(appended, ids.subList(next[1], next[1] += SOME)))
            .run(10, 15);
    return Timing.ratio("append by exact key / upsert", timing.median(1) / timing.median(0), 1.5);
  }

  /** Rows in the order of their keys, so that ranges tell them from those that are there. */
  private boolean inOrder(Lake lake) throws IOException {
    Table keyed = table(lake, true, "exact");
    Table keyless = table(lake, false, "exact");
    Table declared = table(lake, true, "declared");
    long[] next = new long[3];
    Timing timing = new Timing();
    List<Table> all = List.of(keyless, keyed, declared);
    List<String> names = List.of("without a key", "in order, exact", "in order, declared");
    for (int t = 0; t < all.size(); t++) {
      int at = t;
      timing.add(
          "append %,d rows %s".formatted(ORDERED, names.get(t)),
          () -> {
            append(all.get(at), next[at], next[at] + ORDERED, 1);
            next[at] += ORDERED;
          });
    }
    timing.run(3, 9);
    return Timing.ratio(
        "append in order / without a key", timing.median(1) / timing.median(0), 1.1);
  }

  /** A load of random keys into a large table. */
  private boolean manyIntoMore(Lake lake) throws IOException {
    Table declared = table(lake, true, "declared");
    Table exact = table(lake, true, "exact");
    for (Table table : List.of(declared, exact)) {
      for (long from = 0; from < 2L * LARGE; from += 4L * MANY) {
        append(table, from, from + 4L * MANY, 2);
      }
    }
    List<Double> scans = new ArrayList<>();
    List<Double> tests = new ArrayList<>();
    for (int round = 0; round < 3; round++) {
      int number = round;
      double scan = seconds(() -> scanKeys(exact));
      double untested = seconds(() -> load(declared, number));
      double tested = seconds(() -> load(exact, number));
      System.out.printf(
          "scan of %,d keys %.2f s, load of %,d declared %.2f s, exact %.2f s%n",
          LARGE, scan, MANY, untested, tested);
      scans.add(scan);
      tests.add(Math.max(0, tested - untested));
    }
    return Timing.ratio(
        "test of %,d keys / scan of %,d".formatted(MANY, LARGE),
        Timing.median(tests) / Timing.median(scans),
        4);
  }

  /** Odd numbers in no order, each once. */
  private static void load(Table table, int round) {
    try (Append append = table.append()) {
      for (long i = (long) MANY * round; i < (long) MANY * (round + 1); i++) {
        append.add(row(2 * (i * 7_368_787L % LARGE) + 1));
      }
      append.commit();
    }
  }

  private static void scanKeys(Table table) {
    long sum = 0;
    try (Results<Batch> batches = table.scan().columns("id").batches()) {
      for (Batch batch : batches) {
        sum += batch.size();
      }
    }
    if (sum < LARGE) {
      throw new IllegalStateException("rows are missing: " + sum);
    }
  }

  private static double seconds(Runnable work) {
    long start = System.nanoTime();
    work.run();
    return (System.nanoTime() - start) / 1e9;
  }

  /** Eight writers whose keys lie among each other's. */
  private boolean besideOthers(Lake lake) {
    List<Double> ratios = new ArrayList<>();
    for (int round = 0; round < Size.of(5, 1); round++) {
      double without = writers(table(lake, true, "declared"));
      double with = writers(table(lake, true, "exact"));
      System.out.printf(
          "8 writers, appends of %,d rows a second: declared %.1f, exact %.1f%n",
          SOME, without, with);
      ratios.add(without / with);
    }
    return Timing.ratio("8 writers, declared / exact", Timing.median(ratios), 1 / 0.7);
  }

  /** Appends a second. */
  private static double writers(Table table) {
    double seconds =
        SideBySide.seconds(
            WRITERS,
            writer -> {
              for (int i = 0; i < ROUNDS_OF_WRITERS; i++) {
                long from = (long) i * SOME * WRITERS + writer;
                append(table, from, from + (long) SOME * WRITERS, WRITERS);
              }
            });
    return WRITERS * ROUNDS_OF_WRITERS / seconds;
  }
}
