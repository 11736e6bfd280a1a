package org.ysteron.internal.work;

import java.util.OptionalLong;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.error.CancelledException;
import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;

/** Tells a monitor of the steps of calls, and ends them when it cancels. Thread-safe. */
public final class Watch {
  /** Nobody watches. */
  public static final Watch NONE = new Watch(ProgressMonitor.NONE);

  private static final long NANOS_BETWEEN = 100_000_000;

  private final ProgressMonitor monitor;
  private final AtomicLong lastEntry = new AtomicLong(-1);

  public Watch(ProgressMonitor monitor) {
    this.monitor = monitor;
  }

  /** Who watches. */
  public ProgressMonitor monitor() {
    return monitor;
  }

  /** Whether nobody watches, so that nothing needs to be found out for the progress alone. */
  public boolean isIdle() {
    return monitor == ProgressMonitor.NONE;
  }

  /**
   * Ends the call when the monitor has cancelled it.
   *
   * @throws CancelledException when it has
   */
  public void check() {
    if (monitor.isCancelled()) {
      throw new CancelledException(lastEntry.get());
    }
  }

  /** A commit was made, which stands also when the call is cancelled later. */
  public void committed(long entry) {
    lastEntry.accumulateAndGet(entry, Math::max);
  }

  /** Starts a step of which it is not known how much there is to do. */
  public Step step(String what, Progress.Unit unit) {
    return new Step(what, unit, OptionalLong.empty());
  }

  /** Starts a step. */
  public Step step(String what, Progress.Unit unit, long total) {
    return new Step(what, unit, OptionalLong.of(total));
  }

  /** A step of a call. Thread-safe. */
  public final class Step {
    private final String what;
    private final Progress.Unit unit;
    private final OptionalLong total;
    private final AtomicLong done = new AtomicLong();
    private final AtomicLong told = new AtomicLong(System.nanoTime());

    private Step(String what, Progress.Unit unit, OptionalLong total) {
      this.what = what;
      this.unit = unit;
      this.total = total;
      check();
      tell(0);
    }

    private void tell(long reached) {
      // What comes meanwhile may be more than there was to do at the start.
      long most = total.orElse(Long.MAX_VALUE);
      monitor.progress(new Progress(what, Math.min(reached, most), total, unit));
    }

    /**
     * So much more is done.
     *
     * @throws CancelledException when the monitor has cancelled the call
     */
    public void add(long more) {
      check();
      long reached = done.addAndGet(more);
      long now = System.nanoTime();
      long last = told.get();
      if (now - last >= NANOS_BETWEEN && told.compareAndSet(last, now)) {
        tell(reached);
      }
    }
  }
}
