package org.ysteron.sql.run;

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

/** One run of a query: its time, and the memory that its steps take. For one thread. */
public final class Running {
  private final Instant now;
  private final long mostBytes;
  private final AtomicLong all;
  private final String what;
  private long own;

  /**
   * Begins.
   *
   * @param now what CURRENT_TIMESTAMP is
   * @param mostBytes what all steps together may keep
   */
  public Running(Instant now, long mostBytes) {
    this(now, mostBytes, new AtomicLong(), "the query");
  }

  private Running(Instant now, long mostBytes, AtomicLong all, String what) {
    this.now = now;
    this.mostBytes = mostBytes;
    this.all = all;
    this.what = what;
  }

  /** The same run, whose memory is for one thing and can be given back together. */
  Running keeping(String thing) {
    return new Running(now, mostBytes, all, thing);
  }

  /**
   * Takes memory for something that a step keeps.
   *
   * @throws InvalidInputException when the query has no more
   */
  void take(long more) {
    own += more;
    if (all.addAndGet(more) > mostBytes) {
      throw new InvalidInputException(
          "The query needs more than %,d MiB for %s. Select fewer rows or columns, or give it more memory."
              .formatted(mostBytes >> 20, what));
    }
  }

  /** Gives all back that was taken here. */
  void release() {
    all.addAndGet(-own);
    own = 0;
  }

  Computation computation(Expression expression, Schema columns) {
    return new Computation(typed(expression, columns));
  }

  Typed typed(Expression expression, Schema columns) {
    return new Typing(columns, Optional.empty(), Optional.of(now)).type(expression);
  }

  Selecting selecting(Condition condition, Schema columns) {
    return new Selecting(new Typing(columns, Optional.empty(), Optional.of(now)).type(condition));
  }
}
