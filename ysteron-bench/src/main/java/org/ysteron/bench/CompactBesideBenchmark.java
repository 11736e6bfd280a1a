package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.expr.Condition;
import org.ysteron.maintenance.CompactionReport;

/**
 * Two writers of 2,000 rows a second each, one who updates rows each second, and two followers, for
 * a minute without and a minute with compactions one after the other: nobody may fail, and rows may
 * not reach the followers much later.
 */
final class CompactBesideBenchmark implements Main.Benchmark {
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
      Table table = LiveRows.create(lake);
      LiveRows live = new LiveRows(place, seconds + LiveRows.WARM_UP);
      List<Thread> threads = new ArrayList<>();
      long end = System.nanoTime() + (seconds + LiveRows.WARM_UP) * 1_000_000_000L;
      for (int i = 0; i < LiveRows.WRITERS; i++) {
        int number = i;
        threads.add(new Thread(() -> live.write(number)));
        threads.add(new Thread(() -> live.follow(lags)));
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
      if (rows != live.all()) {
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

  private static void update(Path place, long end) {
    try (Lake lake = Lake.open(place)) {
      for (int n = 0; System.nanoTime() < end; n++) {
        LiveRows.sleep(LiveRows.EVERY.toNanos());
        Condition some = Condition.column("level_cm").between(40.0 * n, 40.0 * n + 5);
        LiveRows.table(lake).update().where(some).set("gauge_id", LiveRows.CHANGED).run();
      }
    }
  }

  private static void pack(Path place, long end, AtomicLong packed) {
    try (Lake lake = Lake.open(place)) {
      while (System.nanoTime() < end) {
        CompactionReport report = LiveRows.table(lake).compact().run();
        packed.addAndGet(report.read().files());
        if (!report.skipped().isEmpty()) {
          throw new IllegalStateException("left out " + report.skipped());
        }
        LiveRows.sleep(200_000_000);
      }
    }
  }
}
