package org.ysteron.cli;

import java.io.PrintWriter;
import java.time.Duration;
import java.util.Timer;
import java.util.TimerTask;
import java.util.function.Supplier;
import me.tongfei.progressbar.ProgressBar;
import me.tongfei.progressbar.ProgressBarBuilder;
import me.tongfei.progressbar.ProgressBarStyle;

/**
 * A bar on the terminal for what takes longer than two seconds, with what was read and written so
 * far; nothing when nobody watches.
 */
final class Progress implements AutoCloseable {
  private static final Duration PATIENCE = Duration.ofSeconds(2);
  private static final Duration BETWEEN = Duration.ofMillis(500);
  private static final long MEBIBYTE = 1 << 20;

  private final PrintWriter err;
  private final String task;
  private final Supplier<String> told;
  private final Timer timer;
  private ProgressBar bar;
  private long total = -1;
  private long done;

  /**
   * Begins to wait.
   *
   * @param watched whether there is anybody to tell
   * @param told what was done so far
   */
  Progress(PrintWriter err, boolean watched, String task, Supplier<String> told) {
    this.err = err;
    this.task = task;
    this.told = told;
    this.timer = watched ? new Timer("progress", true) : null;
    if (watched) {
      TimerTask tell =
          new TimerTask() {
            @Override
            public void run() {
              tell();
            }
          };
      timer.schedule(tell, PATIENCE.toMillis(), BETWEEN.toMillis());
    }
  }

  /** Says how far the reading of the bytes of files is. */
  synchronized void reached(long bytes, long of) {
    done = bytes;
    total = of;
  }

  private synchronized void tell() {
    if (bar == null) {
      bar =
          new ProgressBarBuilder()
              .setTaskName(task)
              .setInitialMax(total)
              .setUnit("MiB", MEBIBYTE)
              .setStyle(ProgressBarStyle.ASCII)
              .build();
    }
    bar.maxHint(total);
    bar.stepTo(done);
    bar.setExtraMessage(told.get());
  }

  @Override
  public synchronized void close() {
    if (timer != null) {
      timer.cancel();
    }
    if (bar != null) {
      tell();
      bar.close();
      err.flush();
      bar = null;
    }
  }
}
