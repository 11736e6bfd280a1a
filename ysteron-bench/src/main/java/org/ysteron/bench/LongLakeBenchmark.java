package org.ysteron.bench;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Stream;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.KeyTesting;
import org.ysteron.option.TableSettings;

/**
 * A lake that is written to for a hundred thousand commits, its rows as many as ever, with upkeep
 * after each thousand: the last 500 versions are kept, files packed, entries let go. What its
 * metadata takes, what a commit takes and what opening it takes, right after upkeep: at the end
 * against after the first thousand.
 */
final class LongLakeBenchmark implements Main.Benchmark {
  private static final int COMMITS =
      Integer.getInteger("ysteron.bench.commits", Size.of(100_000, 150));
  private static final int BETWEEN = Size.of(1_000, 50);
  private static final int ROWS = Size.of(1_000, 50);
  private static final int MEASURED = Size.of(200, 5);

  /** What there is right after upkeep. */
  private record Measure(long metadata, double commitMillis, double openMillis) {}

  @Override
  public boolean run(Path directory) throws IOException {
    Path place = directory.resolve("lake");
    Measure first = null;
    Measure last = null;
    try (Lake lake = Lake.create(place)) {
      Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT));
      lake.createTable(
          "bench.long", schema, TableSettings.DEFAULTS.keyTesting(KeyTesting.DECLARED));
      lake.set(TableSettings.KEEP_NEWEST, Size.of(500, 25));
      try (Append append = lake.table("bench.long").append()) {
        for (int k = 0; k < ROWS; k++) {
          append.add(k, 0L);
        }
        append.commit();
      }
    }
    int done = 0;
    while (done < COMMITS) {
      try (Lake lake = Lake.open(place)) {
        write(lake.table("bench.long"), done, BETWEEN);
        done += BETWEEN;
        lake.upkeep().run();
        lake.table("bench.long").compact().full().run();
        lake.expire().run();
        lake.sweep().now().withEntries().run();
      }
      if (first == null || done >= COMMITS || done % 10_000 == 0) {
        last = measure(place, done);
        first = first == null ? last : first;
        System.out.printf(
            "after %,d commits: %,d KiB of metadata, a commit %.2f ms, opening %.2f ms%n",
            done, last.metadata / 1024, last.commitMillis, last.openMillis);
      }
    }
    boolean kept =
        Timing.ratio(
            "metadata at the end / at first", (double) last.metadata / first.metadata, 1.2);
    kept &=
        Timing.ratio("a commit at the end / at first", last.commitMillis / first.commitMillis, 1.2);
    return Timing.ratio("opening at the end / at first", last.openMillis / first.openMillis, 1.2)
        && kept;
  }

  /** Commits of one row, in the place of another. */
  private static double[] write(Table table, int from, int count) {
    double[] millis = new double[count];
    for (int i = 0; i < count; i++) {
      long start = System.nanoTime();
      long value = (long) from + i;
      table.update().where(column("k").equalTo((from + i) % ROWS)).set("v", value).run();
      millis[i] = (System.nanoTime() - start) / 1e6;
    }
    return millis;
  }

  private static Measure measure(Path place, int done) throws IOException {
    long metadata = size(place.resolve("ledger")) + size(place.resolve("pages"));
    double[] opening = new double[21];
    for (int i = 0; i < opening.length; i++) {
      long start = System.nanoTime();
      try (Lake lake = Lake.open(place)) {
        lake.table("bench.long").now().version();
      }
      opening[i] = (System.nanoTime() - start) / 1e6;
    }
    try (Lake lake = Lake.open(place)) {
      double[] commits = write(lake.table("bench.long"), done, MEASURED);
      return new Measure(metadata, Timing.median(commits), Timing.median(opening));
    }
  }

  private static long size(Path directory) throws IOException {
    if (!Files.exists(directory)) {
      return 0;
    }
    try (Stream<Path> files = Files.walk(directory)) {
      return files.filter(Files::isRegularFile).mapToLong(file -> file.toFile().length()).sum();
    }
  }
}
