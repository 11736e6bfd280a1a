package org.ysteron.jdbc;

import java.sql.SQLException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.CancelledException;
import org.ysteron.error.YsteronException;
import org.ysteron.progress.ProgressMonitor;

/**
 * What a connection is doing: one thing at a time, for one thread, until it is cancelled or its
 * time is over. Thread-safe.
 */
final class Running implements ProgressMonitor {
  private final AtomicReference<@Nullable Thread> busy = new AtomicReference<>();
  private volatile @Nullable LakeStatement statement;
  private volatile @Nullable LakeStatement cancelled;
  private volatile long deadline = Long.MAX_VALUE;

  /** Work that a connection does. */
  interface Work<T extends @Nullable Object> {
    T run() throws SQLException;
  }

  /**
   * Does work.
   *
   * @param of the statement that it is a part of; null for none
   * @param until when it has to end, by {@link System#nanoTime}; the greatest number for never
   */
  <T extends @Nullable Object> T doing(@Nullable LakeStatement of, long until, Work<T> work)
      throws SQLException {
    Thread me = Thread.currentThread();
    boolean isInner = busy.get() == me;
    if (!isInner && !busy.compareAndSet(null, me)) {
      Thread other = busy.get();
      throw SqlErrors.of(
          SqlErrors.GENERAL,
          "The connection is in use by thread %s. Use a connection from one thread at a time."
              .formatted(other == null ? "another one" : other.getName()));
    }
    if (!isInner) {
      statement = of;
      deadline = until;
    }
    try {
      return work.run();
    } catch (CancelledException e) {
      throw SqlErrors.of(
          SqlErrors.CANCELLED,
          isOver()
              ? "The statement took longer than its time limit and was ended. Nothing of it was done."
              : "The statement was cancelled. Nothing of it was done.",
          e);
    } catch (YsteronException e) {
      throw SqlErrors.of(e);
    } finally {
      if (!isInner) {
        statement = null;
        deadline = Long.MAX_VALUE;
        busy.set(null);
      }
    }
  }

  /** Ends what a statement is doing, or is about to do next. */
  void cancel(LakeStatement of) {
    if (statement == of || of.isReading()) {
      cancelled = of;
    }
  }

  /** Waits until nothing is done any more. */
  void awaitIdle() {
    while (busy.get() != null) {
      LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(1));
    }
  }

  /** A statement begins anew: what was cancelled before does not count. */
  void begins(LakeStatement of) {
    if (cancelled == of) {
      cancelled = null;
    }
  }

  private boolean isOver() {
    return deadline != Long.MAX_VALUE && System.nanoTime() - deadline > 0;
  }

  @Override
  public boolean isCancelled() {
    LakeStatement now = statement;
    return (now != null && cancelled == now) || isOver();
  }
}
