package org.ysteron.sql.keep;

import java.util.IdentityHashMap;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;

/** What the steps of one run did. Thread-safe. */
public final class Measures {
  private final IdentityHashMap<Step, Measure> steps = new IdentityHashMap<>();

  /** Measures a step and all steps below it. */
  public Measures(Step step) {
    and(step);
  }

  private void and(Step step) {
    steps.put(step, new Measure());
    step.inputs().forEach(this::and);
  }

  /** A step stands in for another while the query runs, and so do those below it. */
  synchronized void standIn(Step other, Step of) {
    Measure measure = steps.get(of);
    if (measure != null) {
      steps.put(other, measure);
    }
    for (int i = 0; i < Math.min(of.inputs().size(), other.inputs().size()); i++) {
      if (of.inputs().get(i) != other.inputs().get(i)) {
        standIn(other.inputs().get(i), of.inputs().get(i));
      }
    }
  }

  /** What a step did; null for one that was made while the query ran. */
  public synchronized @Nullable Measure of(Step step) {
    return steps.get(step);
  }

  /** What one step did. Thread-safe. */
  public static final class Measure {
    private final AtomicLong rows = new AtomicLong();
    private final AtomicLong nanos = new AtomicLong();
    private final AtomicLong kept = new AtomicLong();
    private final AtomicLong mostKept = new AtomicLong();
    private final AtomicLong spilled = new AtomicLong();

    void ran(long more) {
      nanos.addAndGet(more);
    }

    void gave(long more) {
      rows.addAndGet(more);
    }

    void kept(long more) {
      mostKept.accumulateAndGet(kept.addAndGet(more), Math::max);
    }

    void spilled(long more) {
      spilled.addAndGet(more);
    }

    /** The rows that it made. */
    public long rows() {
      return rows.get();
    }

    /** How long it took with the steps below it, in nanoseconds. */
    public long nanos() {
      return nanos.get();
    }

    /** The most bytes that it kept in memory at a time. */
    public long mostKept() {
      return mostKept.get();
    }

    /** The bytes of temporary files that it wrote. */
    public long spilled() {
      return spilled.get();
    }
  }
}
