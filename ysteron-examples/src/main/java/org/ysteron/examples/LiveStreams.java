package org.ysteron.examples;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.BufferedAppend;
import org.ysteron.Follower;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;

/**
 * Two loggers stream readings into a table, two followers read them as they come, and once a second
 * a batch job counts the table. Each count is of one version, so it is the same however it is made,
 * while all the others go on.
 */
public final class LiveStreams {
  private static final int PER_SECOND = 2_000;
  private static final int BAR = 20;

  private final Table readings;
  private final TideOffice office = new TideOffice(7, 40);
  private final AtomicBoolean running = new AtomicBoolean(true);
  private final AtomicBoolean ended = new AtomicBoolean();
  private final AtomicLong committed = new AtomicLong();
  private final AtomicLong[] written = {new AtomicLong(), new AtomicLong()};
  private final AtomicLong[] followed = {new AtomicLong(), new AtomicLong()};

  private LiveStreams(Table readings) {
    this.readings = readings;
  }

  /** Takes an empty directory for the lake, or makes a temporary one; runs for ten seconds. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    int seconds = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 10;
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable("tide.readings", TideOffice.readingsSchema());
      run(readings, seconds, System.out);
    }
  }

  /** Streams into a table of readings for some seconds and shows what goes on. */
  public static void run(Table readings, int seconds, PrintStream out) {
    new LiveStreams(readings).run(seconds, out);
  }

  private void run(int seconds, PrintStream out) {
    long before = readings.scan().count();
    long version = readings.now().version();
    List<Thread> loggers = new ArrayList<>();
    List<Thread> followers = new ArrayList<>();
    for (int i = 0; i < 2; i++) {
      int number = i;
      loggers.add(new Thread(() -> write(number), "logger " + number));
      followers.add(new Thread(() -> follow(number, version), "follower " + number));
    }
    loggers.forEach(Thread::start);
    followers.forEach(Thread::start);
    out.println(
        "second  logger 1 rows/s       logger 2 rows/s       followers     version  counted");
    long[] last = {0, 0};
    for (int second = 1; second <= seconds; second++) {
      sleep(Duration.ofSeconds(1));
      long[] now = {written[0].get(), written[1].get()};
      TableView view = readings.now();
      long counted = count(view) - before;
      boolean same = counted == view.scan().count() - before;
      out.printf(
          "%6d  %s  %s  %6d %6d  %7d  %7d %s%n",
          second,
          bar(now[0] - last[0]),
          bar(now[1] - last[1]),
          followed[0].get(),
          followed[1].get(),
          view.version(),
          counted,
          same ? "consistent" : "NOT CONSISTENT");
      out.flush();
      last = now;
    }
    running.set(false);
    loggers.forEach(LiveStreams::join);
    ended.set(true);
    followers.forEach(LiveStreams::join);
    long rows = readings.scan().count() - before;
    out.printf(
        "The loggers wrote %d rows in %d versions; the followers have %d and %d; the table has %d more.%n",
        written[0].get() + written[1].get(),
        readings.now().version() - version,
        followed[0].get(),
        followed[1].get(),
        rows);
  }

  private static String bar(long rate) {
    int filled = (int) Math.min(BAR - 6, rate * (BAR - 6) / (PER_SECOND + PER_SECOND / 4));
    return "%5d %s%s".formatted(rate, "■".repeat(filled), "·".repeat(BAR - 6 - filled));
  }

  private void write(int logger) {
    Instant time = Instant.now().truncatedTo(ChronoUnit.SECONDS);
    long start = System.nanoTime();
    try (BufferedAppend rows =
        readings.buffered(
            new BufferedAppend.Limits(10_000, 8 << 20, Duration.ofMillis(500)),
            gathered -> committed.addAndGet(gathered.rows()))) {
      for (long i = 0; running.get(); i++) {
        long due = start + i * 1_000_000_000L / PER_SECOND;
        if (due - System.nanoTime() > 1_000_000) {
          sleep(Duration.ofNanos(due - System.nanoTime()));
        }
        TideOffice.Reading reading =
            office.reading((int) (i % 20) + 20 * logger, time.plusMillis(500 * i));
        rows.add(
            reading.gauge_id(),
            reading.taken_at(),
            reading.level_cm(),
            reading.water_temperature(),
            reading.battery_mv(),
            reading.quality());
        written[logger].incrementAndGet();
      }
    }
  }

  /** Follows until it has all that the loggers committed. */
  private void follow(int number, long version) {
    Follower follower = readings.follow(version);
    while (!ended.get() || followed[number].get() < committed.get()) {
      follower
          .await(Duration.ofMillis(200))
          .ifPresent(
              step -> {
                try (Results<Batch> batches = step.batches()) {
                  batches.forEach(batch -> followed[number].addAndGet(batch.size()));
                }
              });
    }
  }

  /** Counts by reading. */
  private static long count(TableView view) {
    long count = 0;
    try (Results<Batch> batches =
        view.scan().where(column("gauge_id").isNotNull()).columns("taken_at").batches()) {
      for (Batch batch : batches) {
        count += batch.size();
      }
    }
    return count;
  }

  private static void sleep(Duration time) {
    try {
      TimeUnit.NANOSECONDS.sleep(time.toNanos());
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private static void join(Thread thread) {
    try {
      thread.join();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
