package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.BufferedAppend;
import org.ysteron.Follower;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.report.CompactionReport;

/**
 * Two writers of 2,000 rows a second each, one who updates rows each second, and two followers, for
 * a minute without and a minute with compactions one after the other: nobody may fail, and rows may
 * not reach the followers much later.
 */
final class CompactBesideBenchmark implements Main.Benchmark {
  private static final int PER_SECOND = 2_000;
  private static final int WARM_UP = 4;
  private static final Duration EVERY = Duration.ofSeconds(1);

  private final int seconds;

  CompactBesideBenchmark(int seconds) {
    this.seconds = seconds;
  }

  @Override
  public boolean run(Path directory) throws IOException {
    double alone = lag(directory.resolve("alone"), false);
    double beside = lag(directory.resolve("beside"), true);
    return Timing.ratio(
        "lag at the 99th percentile, beside compactions / alone", beside / alone, 1.2);
  }

  /** The lag at the 99th percentile, in milliseconds. */
  private double lag(Path place, boolean packs) throws IOException {
    List<Long> lags = Collections.synchronizedList(new ArrayList<>());
    AtomicLong packed = new AtomicLong();
    List<Throwable> failures = Collections.synchronizedList(new ArrayList<>());
    try (Lake lake = Lake.create(place)) {
      Table table =
          lake.createTable(
              "bench.readings",
              Schema.of(
                  Field.of("gauge_id", Types.text(12)),
                  Field.of("made_at", Types.INSTANT),
                  Field.of("level_cm", Types.DOUBLE)));
      List<Thread> threads = new ArrayList<>();
      long end = System.nanoTime() + (seconds + WARM_UP) * 1_000_000_000L;
      for (int i = 0; i < 2; i++) {
        int number = i;
        threads.add(new Thread(() -> write(place, number)));
        threads.add(new Thread(() -> follow(place, lags)));
      }
      threads.add(new Thread(() -> update(place, end)));
      if (packs) {
        threads.add(new Thread(() -> pack(place, end, packed)));
      }
      threads.forEach(
          thread -> thread.setUncaughtExceptionHandler((of, failure) -> failures.add(failure)));
      threads.forEach(Thread::start);
      for (Thread thread : threads) {
        thread.join();
      }
      if (!failures.isEmpty()) {
        throw new IllegalStateException(failures.size() + " failed", failures.get(0));
      }
      long rows = table.scan().count();
      if (rows != 2L * PER_SECOND * (seconds + WARM_UP)) {
        throw new IllegalStateException("there are " + rows + " rows");
      }
      System.out.printf(
          "%s: %d files, %d were packed%n",
          packs ? "with compactions" : "without", table.now().files().size(), packed.get());
    } catch (InterruptedException e) {
      throw new IllegalStateException(e);
    }
    Collections.sort(lags);
    System.out.printf(
        "lag: median %d ms, 99th percentile %d ms%n",
        lags.get(lags.size() / 2), lags.get(lags.size() * 99 / 100));
    return lags.get(lags.size() * 99 / 100);
  }

  private void write(Path place, int writer) {
    try (Lake lake = Lake.open(place);
        BufferedAppend rows =
            lake.table("bench.readings")
                .buffered(new BufferedAppend.Limits(1_000_000, 64 << 20, EVERY))) {
      long start = System.nanoTime();
      for (long i = 0; i < (long) PER_SECOND * (seconds + WARM_UP); i++) {
        long wait = start + i * 1_000_000_000L / PER_SECOND - System.nanoTime();
        if (wait > 1_000_000) {
          sleep(wait);
        }
        rows.add("ORR-0" + writer, Instant.now().truncatedTo(ChronoUnit.MICROS), (double) i);
      }
    }
  }

  private static void update(Path place, long end) {
    try (Lake lake = Lake.open(place)) {
      for (int n = 0; System.nanoTime() < end; n++) {
        sleep(EVERY.toNanos());
        Condition some = Condition.column("level_cm").between(40.0 * n, 40.0 * n + 5);
        lake.table("bench.readings").update().where(some).set("gauge_id", "ORR-99").run();
      }
    }
  }

  private static void pack(Path place, long end, AtomicLong packed) {
    try (Lake lake = Lake.open(place)) {
      while (System.nanoTime() < end) {
        CompactionReport report = lake.table("bench.readings").compact().run();
        packed.addAndGet(report.read().files());
        if (!report.leftOut().isEmpty()) {
          throw new IllegalStateException("left out " + report.leftOut());
        }
        sleep(200_000_000);
      }
    }
  }

  private void follow(Path place, List<Long> lags) {
    try (Lake lake = Lake.open(place)) {
      Follower follower = lake.table("bench.readings").follow(0);
      long seen = 0;
      while (seen < 2L * PER_SECOND * (seconds + WARM_UP)) {
        Follower.Step step = follower.await(Duration.ofSeconds(10)).orElseThrow();
        seen += take(step, lags);
      }
    }
  }

  /** How many rows were inserted; rows that an update brings again are not. */
  private static long take(Follower.Step step, List<Long> lags) {
    long count = 0;
    try (Results<Row> rows = step.rows()) {
      for (Row row : rows) {
        if (row.get("gauge_id").equals("ORR-99")) {
          continue;
        }
        count++;
        if ((Double) row.get("level_cm") >= WARM_UP * PER_SECOND) {
          lags.add(Duration.between((Instant) row.get("made_at"), Instant.now()).toMillis());
        }
      }
    }
    return count;
  }

  private static void sleep(long nanos) {
    try {
      TimeUnit.NANOSECONDS.sleep(nanos);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IllegalStateException(e);
    }
  }
}
