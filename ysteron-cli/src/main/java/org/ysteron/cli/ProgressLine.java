package org.ysteron.cli;

import java.time.Duration;
import java.util.Locale;
import java.util.Timer;
import java.util.TimerTask;
import java.util.function.Supplier;
import me.tongfei.progressbar.ConsoleProgressBarConsumer;
import me.tongfei.progressbar.ProgressBar;
import me.tongfei.progressbar.ProgressBarBuilder;
import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;

/**
 * A line on the terminal for commands that take longer than two seconds: the step, how far it is,
 * and what was read and written. It is cleared before anything else is printed, and not shown when
 * standard error is not a terminal. Ctrl-C cancels the command's calls through it.
 */
final class ProgressLine implements ProgressMonitor, AutoCloseable {
  private static final Duration PATIENCE = Duration.ofSeconds(2);
  private static final Duration BETWEEN = Duration.ofMillis(500);
  private static final int MOST_COLUMNS = 120;

  private final String command;
  private final Supplier<String> told;
  private final Timer timer;
  private final long start = System.nanoTime();
  private ProgressBar line;
  private volatile Progress last;

  /**
   * Begins to wait.
   *
   * @param shown whether there is a terminal to show it on
   * @param told what was read and written so far
   */
  ProgressLine(boolean shown, String command, Supplier<String> told) {
    this.command = command;
    this.told = told;
    this.timer = shown ? new Timer("progress", true) : null;
    if (shown) {
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

  @Override
  public void progress(Progress progress) {
    last = progress;
  }

  @Override
  public boolean isCancelled() {
    return Interruption.isRequested();
  }

  private synchronized void show() {
    if (line == null) {
      line =
          new ProgressBarBuilder()
              .setRenderer((state, width) -> text())
              .setConsumer(new Cleared())
              .clearDisplayOnFinish()
              .build();
    }
    line.refresh();
  }

  /** Ends without a line of its own. */
  private static final class Cleared extends ConsoleProgressBarConsumer {
    Cleared() {
      super(System.err, Math.min(Output.widthOf(true), MOST_COLUMNS) - 1);
    }

    @Override
    public void close() {
      System.err.flush();
    }
  }

  private String text() {
    long seconds = (System.nanoTime() - start) / 1_000_000_000;
    Progress now = last;
    String step = now == null ? "" : ", " + text(now);
    return "%s: %d s%s; %s".formatted(command, seconds, step, told.get());
  }

  /** A step and how far it is, such as {@code check files: 40 of 120 files, 33 %}. */
  static String text(Progress progress) {
    boolean bytes = progress.unit() == Progress.Unit.BYTES;
    String unit = bytes ? "" : " " + progress.unit().name().toLowerCase(Locale.ROOT);
    String done = bytes ? Listing.bytes(progress.done()) : Listing.number(progress.done());
    if (progress.total().isEmpty() || progress.total().getAsLong() == 0) {
      return "%s: %s%s".formatted(progress.step(), done, unit);
    }
    long total = progress.total().getAsLong();
    String all = bytes ? Listing.bytes(total) : Listing.number(total);
    return "%s: %s of %s%s, %d %%"
        .formatted(
            progress.step(),
            done,
            all,
            unit,
            Math.min(100, Math.round(100.0 * progress.done() / total)));
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
