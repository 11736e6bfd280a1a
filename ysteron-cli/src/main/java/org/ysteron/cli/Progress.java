package org.ysteron.cli;

import java.time.Duration;
import java.util.Timer;
import java.util.TimerTask;
import java.util.function.Supplier;
import me.tongfei.progressbar.ConsoleProgressBarConsumer;
import me.tongfei.progressbar.ProgressBar;
import me.tongfei.progressbar.ProgressBarBuilder;

/**
 * A line on the terminal for what takes longer than two seconds: how far it is, and what was read
 * and written so far. It goes before anything else is printed; there is none when nobody watches.
 */
final class Progress implements AutoCloseable {
  private static final Duration PATIENCE = Duration.ofSeconds(2);
  private static final Duration BETWEEN = Duration.ofMillis(500);

  private final String task;
  private final Supplier<String> told;
  private final Timer timer;
  private final long start = System.nanoTime();
  private ProgressBar line;
  private long total = -1;
  private long done;

  /**
   * Begins to wait.
   *
   * @param watched whether there is anybody to tell
   * @param told what was done so far
   */
  Progress(boolean watched, String task, Supplier<String> told) {
    this.task = task;
    this.told = told;
    this.timer = watched ? new Timer("progress", true) : null;
    if (watched) {
      TimerTask tell =
          new TimerTask() {
            @Override
            public void run() {
              show();
            }
          };
      timer.schedule(tell, PATIENCE.toMillis(), BETWEEN.toMillis());
    }
  }

  /** Says how far the reading of the bytes of files is; their sum is -1 when it is not known. */
  synchronized void reached(long bytes, long of) {
    done = bytes;
    total = of;
  }

  private synchronized void show() {
    if (line == null) {
      line =
          new ProgressBarBuilder()
              .setRenderer((state, width) -> text())
              .setConsumer(new ConsoleProgressBarConsumer(System.err))
              .clearDisplayOnFinish()
              .build();
    }
    line.refresh();
  }

  private synchronized String text() {
    String far =
        total > 0 ? ", %d %% of %s".formatted(100 * done / total, Listing.bytes(total)) : "";
    long seconds = (System.nanoTime() - start) / 1_000_000_000;
    return "%s: %d s%s; %s".formatted(task, seconds, far, told.get());
  }

  @Override
  public void close() {
    ProgressBar shown;
    synchronized (this) {
      if (timer != null) {
        timer.cancel();
      }
      shown = line;
      line = null;
    }
    if (shown != null) {
      shown.close();
    }
  }
}
