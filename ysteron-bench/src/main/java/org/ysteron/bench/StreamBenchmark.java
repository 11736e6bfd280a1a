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
import org.ysteron.BufferedAppend;
import org.ysteron.Follower;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;

/**
 * Two writers of 2,000 rows a second each for 20 seconds, and two followers: how long after a row
 * was made a follower has it, and how many files that takes. Four seconds before are not counted.
 */
final class StreamBenchmark implements Main.Benchmark {
  private static final int PER_SECOND = 2_000;
  private static final int SECONDS = 20;
  private static final int WARM_UP = 4;
  private static final Duration EVERY = Duration.ofSeconds(1);

  @Override
  public boolean run(Path directory) throws IOException {
    Path place = directory.resolve("lake");
    List<List<Long>> lags = List.of(new ArrayList<>(), new ArrayList<>());
    long commits;
    try (Lake lake = Lake.create(place)) {
      Table table =
          lake.createTable(
              "bench.readings",
              Schema.of(
                  Field.of("gauge_id", Types.text(12)),
                  Field.of("made_at", Types.INSTANT),
                  Field.of("level_cm", Types.DOUBLE)));
      List<Thread> threads = new ArrayList<>();
      for (int i = 0; i < 2; i++) {
        int number = i;
        threads.add(new Thread(() -> write(place, number)));
        threads.add(new Thread(() -> follow(place, lags.get(number))));
      }
      threads.forEach(Thread::start);
      for (Thread thread : threads) {
        thread.join();
      }
      commits = table.now().version();
    } catch (InterruptedException e) {
      throw new IllegalStateException(e);
    }
    boolean kept = true;
    for (List<Long> lag : lags) {
      Collections.sort(lag);
      if (lag.size() != 2 * PER_SECOND * SECONDS) {
        throw new IllegalStateException("a follower has " + lag.size() + " rows");
      }
      System.out.printf("lag: median %d ms%n", lag.get(lag.size() / 2));
      kept &=
          Timing.ratio("lag at the 99th percentile, s", lag.get(lag.size() * 99 / 100) / 1e3, 1);
    }
    return Timing.ratio("files per second and writer", commits / 2.0 / (SECONDS + WARM_UP), 1)
        && kept;
  }

  private static void write(Path place, int writer) {
    try (Lake lake = Lake.open(place);
        BufferedAppend rows =
            lake.table("bench.readings")
                .buffered(new BufferedAppend.Limits(1_000_000, 64 << 20, EVERY))) {
      long start = System.nanoTime();
      for (long i = 0; i < (long) PER_SECOND * (SECONDS + WARM_UP); i++) {
        long due = start + i * 1_000_000_000L / PER_SECOND;
        long wait = due - System.nanoTime();
        if (wait > 1_000_000) {
          sleep(wait);
        }
        rows.add("ORR-0" + writer, Instant.now().truncatedTo(ChronoUnit.MICROS), (double) i);
      }
    }
  }

  private static void follow(Path place, List<Long> lags) {
    try (Lake lake = Lake.open(place)) {
      Follower follower = lake.table("bench.readings").follow(0);
      long seen = 0;
      while (seen < 2L * PER_SECOND * (SECONDS + WARM_UP)) {
        Follower.Step step = follower.await(Duration.ofSeconds(10)).orElseThrow();
        seen += take(step, lags);
      }
    }
  }

  private static long take(Follower.Step step, List<Long> lags) {
    long count = 0;
    try (Results<Row> rows = step.rows()) {
      for (Row row : rows) {
        Instant made = (Instant) row.get("made_at");
        count++;
        if ((Double) row.get("level_cm") >= WARM_UP * PER_SECOND) {
          lags.add(Duration.between(made, Instant.now()).toMillis());
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
