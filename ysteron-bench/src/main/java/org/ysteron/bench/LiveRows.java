package org.ysteron.bench;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
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
 * Rows that writers bring as time goes on, so many a second, a commit each second, and followers
 * that have them some time after they were made. The first seconds are not counted.
 */
final class LiveRows {
  static final int WRITERS = 2;
  static final int PER_SECOND = 2_000;
  static final int WARM_UP = Size.of(4, 1);
  static final Duration EVERY = Duration.ofSeconds(1);

  /** Rows of this gauge were changed since they came. */
  static final String CHANGED = "ORR-99";

  private static final String TABLE = "bench.readings";

  private final Path place;
  private final int seconds;

  /** So many seconds of a lake, the first ones included. */
  LiveRows(Path place, int seconds) {
    this.place = place;
    this.seconds = seconds;
  }

  long all() {
    return (long) WRITERS * PER_SECOND * seconds;
  }

  static Table table(Lake lake) {
    return lake.table(TABLE);
  }

  static Table create(Lake lake) {
    return lake.createTable(
        TABLE,
        Schema.of(
            Field.of("gauge_id", Types.text(12)),
            Field.of("made_at", Types.INSTANT),
            Field.of("level_cm", Types.DOUBLE)));
  }

  void write(int writer) {
    try (Lake lake = Lake.open(place);
        BufferedAppend rows =
            table(lake).buffered(new BufferedAppend.Limits(1_000_000, 64 << 20, EVERY))) {
      long start = System.nanoTime();
      for (long i = 0; i < (long) PER_SECOND * seconds; i++) {
        long due = start + i * 1_000_000_000L / PER_SECOND;
        long wait = due - System.nanoTime();
        if (wait > 1_000_000) {
          sleep(wait);
        }
        rows.add("ORR-0" + writer, Instant.now().truncatedTo(ChronoUnit.MICROS), (double) i);
      }
    }
  }

  /** Takes rows until all are there; tells how many milliseconds each was on its way. */
  void follow(List<Long> lags) {
    try (Lake lake = Lake.open(place)) {
      Follower follower = table(lake).follow(0);
      long seen = 0;
      while (seen < all()) {
        Follower.Step step = follower.await(Duration.ofSeconds(10)).orElseThrow();
        seen += take(step, lags);
      }
    }
  }

  /** How many rows came for the first time. */
  private static long take(Follower.Step step, List<Long> lags) {
    long count = 0;
    try (Results<Row> rows = step.rows()) {
      for (Row row : rows) {
        if (row.get("gauge_id").equals(CHANGED)) {
          continue;
        }
        Instant made = (Instant) row.get("made_at");
        count++;
        if ((Double) row.get("level_cm") >= WARM_UP * PER_SECOND) {
          lags.add(Duration.between(made, Instant.now()).toMillis());
        }
      }
    }
    return count;
  }

  static void sleep(long nanos) {
    try {
      TimeUnit.NANOSECONDS.sleep(nanos);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IllegalStateException(e);
    }
  }
}
