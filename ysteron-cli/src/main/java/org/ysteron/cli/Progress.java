package org.ysteron.cli;

import java.io.PrintWriter;
import me.tongfei.progressbar.ProgressBar;
import me.tongfei.progressbar.ProgressBarBuilder;
import me.tongfei.progressbar.ProgressBarStyle;

/**
 * A bar on the terminal for what takes longer than two seconds; nothing when nobody watches. For
 * one thread.
 */
final class Progress implements AutoCloseable {
  private static final long PATIENCE_NANOS = 2_000_000_000L;

  private final PrintWriter err;
  private final String task;
  private final String unit;
  private final long unitSize;
  private final long total;
  private final long start = System.nanoTime();

  /** The script that starts the tool knows whether standard error is a terminal. */
  private final boolean watched = Boolean.getBoolean("ysteron.watched");

  private ProgressBar bar;

  Progress(PrintWriter err, String task, String unit, long unitSize, long total) {
    this.err = err;
    this.task = task;
    this.unit = unit;
    this.unitSize = unitSize;
    this.total = total;
  }

  /** Says how far the work is. */
  void reached(long done) {
    if (!watched) {
      return;
    }
    if (bar == null && System.nanoTime() - start > PATIENCE_NANOS) {
      bar =
          new ProgressBarBuilder()
              .setTaskName(task)
              .setInitialMax(total)
              .setUnit(unit, unitSize)
              .setStyle(ProgressBarStyle.ASCII)
              .build();
    }
    if (bar != null) {
      bar.stepTo(done);
    }
  }

  @Override
  public void close() {
    if (bar != null) {
      bar.close();
      err.flush();
    }
  }
}
