package org.ysteron.sql.keep;

import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.Typing;
import org.ysteron.internal.work.Workers;

/** One run of a query: its time, and the memory that its steps take. For one thread. */
public final class Running {
  private static final int MOST_DEPTH = 6;
  private static final long LEAST_WAITING = 1 << 18;
  private static final long MOST_WAITING = 16 << 20;

  private final Instant now;
  private final long mostBytes;
  private final AtomicLong all;
  private final Workers workers;
  private final int depth;
  private final String what;
  private long own;

  /**
   * Begins.
   *
   * @param now what CURRENT_TIMESTAMP is
   * @param mostBytes what all steps together may keep
   * @param workers what writes temporary files, and where they are
   */
  public Running(Instant now, long mostBytes, Workers workers) {
    this(now, mostBytes, new AtomicLong(), workers, 0, "the query");
  }

  private Running(
      Instant now, long mostBytes, AtomicLong all, Workers workers, int depth, String what) {
    this.now = now;
    this.workers = workers;
    this.depth = depth;
    this.mostBytes = mostBytes;
    this.all = all;
    this.what = what;
  }

  /** The same run, whose memory is for one thing and can be given back together. */
  public Running keeping(String thing) {
    return new Running(now, mostBytes, all, workers, depth, thing);
  }

  /** The same run, for a part of rows that did not fit in memory. */
  public Running deeper() {
    if (depth == MOST_DEPTH) {
      throw new InvalidInputException(
          "The query has too many rows with the same keys for %,d MiB of memory. Give it more."
              .formatted(mostBytes >> 20));
    }
    return new Running(now, mostBytes, all, workers, depth + 1, what);
  }

  /** The same run for what is bounded by itself, and not counted. */
  public Running uncounted() {
    return new Running(now, Long.MAX_VALUE, new AtomicLong(), workers, depth, what);
  }

  /** What rows that go to files may take until they are written. */
  public long waitingBytes() {
    return Math.max(LEAST_WAITING, Math.min(MOST_WAITING, mostBytes / 8));
  }

  /** How often the rows were parted. */
  public int depth() {
    return depth;
  }

  public Workers workers() {
    return workers;
  }

  /** Whether what can wait in files should do so: arrays double when they are full. */
  public boolean isTight() {
    return all.get() > mostBytes / 2;
  }

  /**
   * Takes memory for something that a step keeps.
   *
   * @throws InvalidInputException when the query has no more
   */
  public void take(long more) {
    own += more;
    if (all.addAndGet(more) > mostBytes) {
      throw new InvalidInputException(
          "The query needs more than %,d MiB for %s. Select fewer rows or columns, or give it more memory."
              .formatted(mostBytes >> 20, what));
    }
  }

  /** Gives all back that was taken here. */
  public void release() {
    all.addAndGet(-own);
    own = 0;
  }

  public Computation computation(Expression expression, Schema columns) {
    return new Computation(typed(expression, columns));
  }

  public Typed typed(Expression expression, Schema columns) {
    return new Typing(columns, Optional.empty(), Optional.of(now)).type(expression);
  }

  public Selecting selecting(Condition condition, Schema columns) {
    return new Selecting(new Typing(columns, Optional.empty(), Optional.of(now)).type(condition));
  }
}
