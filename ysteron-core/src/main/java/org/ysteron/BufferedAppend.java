package org.ysteron;

import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.work.StoreFailures;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.report.WriteResult;

/**
 * Appends rows as they arrive and commits them in batches: after a number of rows or bytes, or a
 * time since the first of them. So thousands of rows per second make few files. A row is durable
 * when the commit that contains it is reported; if the process dies, the other rows are lost.
 * Closing commits the rest. Thread-safe.
 *
 * <p>A row that is rejected is not added, and the append continues. If accepted rows cannot be
 * committed (the table was dropped or altered so that they do not fit, or the store failed), the
 * append ends: that call throws the failure, and all later calls throw an {@link EndedException}
 * that tells how many rows are not in the table. If the store does not tell whether a commit
 * happened, it is asked again several times.
 */
public final class BufferedAppend implements RowSink, AutoCloseable {
  private static final long LOOK_EVERY = 64;

  private final String table;
  private final Supplier<Append> appends;
  private final Limits limits;
  private final Consumer<Gathered> committedRows;
  private final ScheduledExecutorService timer;
  private final Object commits = new Object();
  private @Nullable Append append;
  private long gathered;
  private long acknowledged;
  private @Nullable ScheduledFuture<?> due;
  private @Nullable Throwable failure;
  private long lost;
  private boolean closed;

  /**
   * When to commit.
   *
   * @param rows at so many rows
   * @param bytes at about so many bytes of data file
   * @param time so long after the first row that is not committed
   */
  public record Limits(long rows, long bytes, Duration time) {
    public Limits {
      if (rows < 1 || bytes < 1 || time.isNegative() || time.isZero()) {
        throw new InvalidInputException(
            "A buffered append needs limits above zero, not %d rows, %d bytes, %s."
                .formatted(rows, bytes, time));
      }
    }

    /** A million rows, 64 MiB, one second. */
    public static Limits standard() {
      return new Limits(1_000_000, 64L << 20, Duration.ofSeconds(1));
    }
  }

  /**
   * Rows that were committed together.
   *
   * @param rows how many
   * @param all how many since the start
   * @param result their commit, and those that were left out of it, which are not among the others
   */
  public record Gathered(long rows, long all, WriteResult result) {
    /** Those that were left out, which are not among the others. */
    public SkippedRows skipped() {
      return result.skipped();
    }
  }

  BufferedAppend(
      String table, Supplier<Append> appends, Limits limits, Consumer<Gathered> committedRows) {
    this.table = table;
    this.limits = limits;
    this.appends = appends;
    this.committedRows = committedRows;
    this.timer =
        Executors.newSingleThreadScheduledExecutor(
            work -> {
              Thread thread = new Thread(work, "ysteron-append-" + table);
              thread.setDaemon(true);
              return thread;
            });
  }

  /**
   * Adds a row by the values of all columns, in their order.
   *
   * @throws org.ysteron.error.InvalidInputException when the row does not fit; it is not added
   * @throws EndedException when rows could not be committed before
   */
  @Override
  public BufferedAppend add(@Nullable Object... values) {
    return add(rows -> rows.add(values));
  }

  /**
   * Adds a row by names; a column that it lacks gets its default, or null. For a column that the
   * table lacks the rules of this append decide: the table grows with each commit by the rows in
   * it.
   *
   * @throws org.ysteron.error.InvalidInputException when the row does not fit; it is not added
   * @throws EndedException when rows could not be committed before
   */
  @Override
  public BufferedAppend addRow(Row row) {
    return add(rows -> rows.addRow(row));
  }

  @Override
  public BufferedAppend addRecord(Record record) {
    return add(rows -> rows.addRecord(record));
  }

  /** Adds rows by column; they go into one commit. */
  @Override
  public BufferedAppend addBatch(Batch batch) {
    return add(rows -> rows.addBatch(batch), batch.size());
  }

  @Override
  public BufferedAppend addObject(Map<String, @Nullable Object> members) {
    return add(rows -> rows.addObject(members));
  }

  @Override
  public BufferedAppend addText(TextRow row) {
    return add(rows -> rows.addText(row));
  }

  private BufferedAppend add(Consumer<Append> row) {
    return add(row, 1);
  }

  private BufferedAppend add(Consumer<Append> row, int count) {
    boolean full;
    synchronized (this) {
      ready();
      if (append == null) {
        append = appends.get();
      }
      take(append, row, count);
      if (due == null) {
        due = timer.schedule(this::onTime, limits.time.toNanos(), TimeUnit.NANOSECONDS);
      }
      boolean look = count > 1 || gathered % LOOK_EVERY == 0;
      full = gathered >= limits.rows || (look && append.bytes() >= limits.bytes);
    }
    if (full) {
      flush();
    }
    return this;
  }

  private void take(Append open, Consumer<Append> row, int count) {
    try {
      row.accept(open);
      gathered += count;
    } catch (InvalidInputException e) {
      throw e;
    } catch (RuntimeException | Error e) {
      open.close();
      append = null;
      fail(e, gathered);
      throw e;
    }
  }

  private void ready() {
    throwFailure();
    if (closed) {
      throw new EndedException(
          EndedException.Kind.APPEND,
          table,
          "The buffered append to %s was closed.".formatted(table),
          null);
    }
  }

  private void throwFailure() {
    if (failure != null) {
      throw new EndedException(
          EndedException.Kind.APPEND,
          table,
          "The buffered append to %s ended when rows could not be committed: %s %s. Open another one."
              .formatted(
                  table,
                  failure.getMessage(),
                  failure instanceof UnknownOutcomeException
                      ? "Whether %d rows are in the table is not known; %d are"
                          .formatted(lost, acknowledged)
                      : "%d rows that were added are not in the table; %d are"
                          .formatted(lost, acknowledged)),
          failure);
    }
  }

  private void onTime() {
    try {
      flush();
    } catch (RuntimeException | Error e) {
      // Kept; the next call reports it.
      StoreFailures.log("rows gathered for " + table, new YsteronException(e.toString(), e));
    }
  }

  /**
   * Commits what has gathered; empty when nothing has. Rows that are added meanwhile go with the
   * next commit.
   *
   * @throws EndedException when rows could not be committed before
   */
  public Optional<WriteResult> flush() {
    synchronized (commits) {
      Append ready;
      long rows;
      synchronized (this) {
        throwFailure();
        if (due != null) {
          due.cancel(false);
          due = null;
        }
        ready = append;
        rows = gathered;
        append = null;
        gathered = 0;
      }
      return ready == null ? Optional.empty() : Optional.of(commit(ready, rows));
    }
  }

  private WriteResult commit(Append ready, long rows) {
    WriteResult committed;
    try {
      committed = ready.commitUntilKnown();
    } catch (RuntimeException | Error e) {
      synchronized (this) {
        if (append != null) {
          append.close(); // rows that came meanwhile go the same way
          append = null;
        }
        fail(e, rows + gathered);
        gathered = 0;
      }
      throw e;
    }
    long there = rows - committed.skipped().rows();
    long all;
    synchronized (this) {
      acknowledged += there;
      all = acknowledged;
    }
    committedRows.accept(new Gathered(there, all, committed));
    return committed;
  }

  private void fail(Throwable cause, long rows) {
    failure = cause;
    lost = rows;
  }

  /** How many rows are committed. */
  public synchronized long acknowledged() {
    return acknowledged;
  }

  /**
   * Commits the rest.
   *
   * @throws EndedException when rows could not be committed before
   */
  @Override
  public void close() {
    synchronized (this) {
      if (closed) {
        return;
      }
      closed = true;
      if (failure != null) {
        timer.shutdown();
        throwFailure();
      }
    }
    // A commit that the timer has begun is waited for, never interrupted.
    try {
      flush();
    } finally {
      timer.shutdown();
    }
  }
}
