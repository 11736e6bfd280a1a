package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.work.Workers;

/**
 * Batches that another thread reads a few ahead of who takes them, never more: a worker that is
 * ahead lets go of its thread, so that readers that wait for each other cannot starve. What no
 * worker has begun to read is read by who wants it. One thread takes.
 */
final class ReadAhead {
  private static final int BATCHES = 4;

  private final Workers workers;
  private final BatchSource source;
  private final Deque<Step> ready = new ArrayDeque<>();
  private At at = At.REST;
  private boolean queued;
  private boolean closed;

  private enum At {
    REST,
    CALLED,
    READING,
    END
  }

  /** A batch, or the end, or how it failed, which is the end, too. */
  private record Step(Optional<Batch> batch, RuntimeException failure, Error error) {
    boolean isLast() {
      return batch.isEmpty();
    }

    Optional<Batch> get() {
      if (error != null) {
        throw error;
      }
      if (failure != null) {
        throw failure;
      }
      return batch;
    }
  }

  ReadAhead(Workers workers, BatchSource source) {
    this.workers = workers;
    this.source = source;
  }

  /** Has a worker go on, when none is at it and there is room. */
  synchronized void resume() {
    if (workers.threads() > 1 && at == At.REST && !closed && ready.size() < BATCHES) {
      at = At.CALLED;
      if (!queued) {
        queued = true;
        workers.submit(this::work);
      }
    }
  }

  private Void work() {
    synchronized (this) {
      queued = false;
      if (at != At.CALLED) {
        return null;
      }
      at = At.READING;
    }
    boolean goesOn = true;
    while (goesOn) {
      Step step = read();
      synchronized (this) {
        ready.add(step);
        goesOn = !step.isLast() && !closed && ready.size() < BATCHES;
        if (!goesOn) {
          at = step.isLast() ? At.END : At.REST;
        }
        notifyAll();
      }
    }
    return null;
  }

  private Step read() {
    try {
      return new Step(source.next(), null, null);
    } catch (RuntimeException e) {
      return new Step(Optional.empty(), e, null);
    } catch (Error e) {
      return new Step(Optional.empty(), null, e);
    }
  }

  /** The next batch; empty at the end. */
  Optional<Batch> take() {
    synchronized (this) {
      while (ready.isEmpty() && at == At.READING) {
        await();
      }
      if (!ready.isEmpty()) {
        Step step = ready.remove();
        resume();
        return step.get();
      }
      if (at == At.END) {
        return Optional.empty();
      }
      at = At.READING;
    }
    Step own = read();
    synchronized (this) {
      at = own.isLast() ? At.END : At.REST;
      resume();
    }
    return own.get();
  }

  private synchronized void await() {
    try {
      wait();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new YsteronException("Interrupted while reading.", e);
    }
  }

  /** Ends it, when the worker that is at it has put its batch down. */
  void close() {
    boolean interrupted = false;
    synchronized (this) {
      closed = true;
      while (at == At.READING) {
        try {
          wait();
        } catch (InterruptedException e) {
          interrupted = true; // it still reads what is to be closed
        }
      }
      at = At.END;
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
    source.close();
  }
}
