package org.ysteron.sql.keep;

import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.Typing;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;

/** One run of a query: its time, and the memory that its steps take. For one thread. */
public final class Running {
  private static final int MOST_DEPTH = 6;
  private static final int LEAST_SHARE = 32;
  private static final long LEAST_WAITING = 1 << 18;
  private static final long MOST_WAITING = 16 << 20;

  private final Whole whole;
  private final AtomicLong all;
  private final long mostBytes;
  private final int depth;
  private final String what;
  private final Measures.@Nullable Measure measure;
  private long own;

  /**
   * What all steps of a run share.
   *
   * @param rounds what steps that run in rounds have made last; by the key of each of them
   */
  private record Whole(
      Instant now,
      Workers workers,
      Watch watch,
      boolean pushes,
      Threads threads,
      @Nullable Measures measures,
      Map<Object, Batch> rounds) {

    Whole with(@Nullable Measures otherMeasures, Map<Object, Batch> otherRounds) {
      return new Whole(now, workers, watch, pushes, threads, otherMeasures, otherRounds);
    }
  }

  /**
   * Begins.
   *
   * @param now what CURRENT_TIMESTAMP is
   * @param mostBytes what all steps together may keep
   * @param workers what writes temporary files, and where they are
   * @param watch cancels the run
   * @param pushes whether scans do what they can of the work of other steps
   * @param threads how many threads may work at a time
   */
  public Running(
      Instant now, long mostBytes, Workers workers, Watch watch, boolean pushes, Threads threads) {
    this(
        new Whole(now, workers, watch, pushes, threads, null, Map.of()),
        new AtomicLong(),
        mostBytes,
        0,
        "the query",
        null);
  }

  private Running(
      Whole whole,
      AtomicLong all,
      long mostBytes,
      int depth,
      String what,
      Measures.@Nullable Measure measure) {
    this.whole = whole;
    this.all = all;
    this.mostBytes = mostBytes;
    this.depth = depth;
    this.what = what;
    this.measure = measure;
  }

  /**
   * Threads of a run.
   *
   * @param most how many may work at a time
   * @param leastRows how many rows are so many that several threads share them
   */
  public record Threads(int most, long leastRows) {
    private static final long LEAST_ROWS = 100_000;

    /** One thread alone. */
    public static final Threads ONE = new Threads(1, LEAST_ROWS);

    /** So many threads at most. */
    public static Threads upTo(int most) {
      return new Threads(most, LEAST_ROWS);
    }
  }

  /** The same run, whose memory is for one thing and can be given back together. */
  public Running keeping(String thing) {
    return new Running(whole, all, mostBytes, depth, thing, measure);
  }

  /** The same run, for a part of rows that did not fit in memory. */
  public Running deeper() {
    if (depth == MOST_DEPTH) {
      throw new InvalidInputException(
          "The query has too many rows with the same keys for %,d MiB of memory. Give it more."
              .formatted(mostBytes >> 20));
    }
    return new Running(whole, all, mostBytes, depth + 1, what, measure);
  }

  /** The same run of a step that is measured. */
  Running measuring(Measures.Measure of) {
    return new Running(whole, all, mostBytes, depth, what, of);
  }

  /** The same run, which tells what steps do. */
  public Running measuredBy(Measures measures) {
    Whole measured = whole.with(measures, whole.rounds);
    return new Running(measured, all, mostBytes, depth, what, null);
  }

  Measures.@Nullable Measure measureOf(Step step) {
    return whole.measures == null ? null : whole.measures.of(step);
  }

  /** A step stands in for another in this run, and is measured as that. */
  public Step standingIn(Step other, Step of) {
    if (whole.measures != null && other != of) {
      whole.measures.standIn(other, of);
    }
    return other;
  }

  /** Tells of bytes that were written to a temporary file. */
  void spilled(long bytes) {
    if (measure != null) {
      measure.spilled(bytes);
    }
  }

  /** The same run, in which the steps of a round find the rows of the round before by a key. */
  public Running inRound(Object key, Batch rows) {
    Map<Object, Batch> rounds = new HashMap<>(whole.rounds);
    rounds.put(key, rows);
    Whole next = whole.with(whole.measures, rounds);
    return new Running(next, all, mostBytes, depth, what, measure);
  }

  /** The rows of the round before. */
  public Batch ofRound(Object key) {
    return Objects.requireNonNull(whole.rounds.get(key));
  }

  /**
   * Ends the run when it was cancelled; for everything that takes long without asking for rows.
   *
   * @throws org.ysteron.error.CancelledException when it was
   */
  public void check() {
    whole.watch.check();
  }

  /** The same run for what is bounded by itself, and not counted. */
  public Running uncounted() {
    return new Running(whole, new AtomicLong(), Long.MAX_VALUE, depth, what, null);
  }

  /** What rows that go to files may take until they are written. */
  public long waitingBytes() {
    return Math.max(LEAST_WAITING, Math.min(MOST_WAITING, mostBytes / 8));
  }

  /** A share of the memory of the query, in bytes. */
  public long share(int of) {
    return mostBytes / of;
  }

  /** How many threads may work at a time. */
  public int threads() {
    return whole.threads.most;
  }

  /** Whether there are so many rows that several threads share them. */
  public boolean shares(long rows) {
    return whole.threads.most > 1 && rows >= whole.threads.leastRows;
  }

  /** Whether scans do what they can of the work of other steps. */
  public boolean pushes() {
    return whole.pushes;
  }

  /** How often the rows were parted. */
  public int depth() {
    return depth;
  }

  public Workers workers() {
    return whole.workers;
  }

  /**
   * Whether what can wait in files should do so: when half of the memory is taken, since arrays
   * double when they are full, unless it is others that have taken it.
   *
   * @param kept the bytes that who asks has taken
   */
  public boolean isTight(long kept) {
    return all.get() > mostBytes / 2 && kept > mostBytes / LEAST_SHARE;
  }

  /** The bytes that were taken here. */
  public long own() {
    return own;
  }

  /**
   * Takes memory for something that a step keeps.
   *
   * @throws InvalidInputException when the query has no more
   */
  public void take(long more) {
    own += more;
    if (measure != null) {
      measure.kept(more);
    }
    if (all.addAndGet(more) > mostBytes) {
      throw new InvalidInputException(
          "The query needs more than %,d MiB for %s. Select fewer rows or columns, or give it more memory."
              .formatted(mostBytes >> 20, what));
    }
  }

  /** Gives all back that was taken here. */
  public void release() {
    all.addAndGet(-own);
    if (measure != null) {
      measure.kept(-own);
    }
    own = 0;
  }

  public Computation computation(Expression expression, Schema columns) {
    return new Computation(typed(expression, columns));
  }

  public Typed typed(Expression expression, Schema columns) {
    return new Typing(columns, Optional.empty(), Optional.of(whole.now)).type(expression);
  }

  public Selecting selecting(Condition condition, Schema columns) {
    return new Selecting(
        new Typing(columns, Optional.empty(), Optional.of(whole.now)).type(condition));
  }
}
