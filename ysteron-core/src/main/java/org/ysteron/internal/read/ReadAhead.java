package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.work.Workers;

/**
 * Batches that another thread reads ahead of who takes them, up to some bytes: a worker that is so
 * far ahead lets go of its thread, so that readers that wait for each other cannot starve. What no
 * worker has begun to read is read by who wants it. One thread takes.
 *
 * @param <T> a batch, or one with more about it
 */
final class ReadAhead<T> {
  private final Workers workers;
  private final Source<T> source;
  private final Function<T, Batch> rows;
  private final long mostBytes;
  private final Deque<Step<T>> ready = new ArrayDeque<>();
  private At at = At.REST;
  private long readyBytes;
  private boolean queued;
  private boolean closed;

  private enum At {
    REST,
    CALLED,
    READING,
    END
  }

  /** A batch, or the end, or how it failed, which is the end, too. */
  private record Step<T>(Optional<T> batch, long bytes, RuntimeException failure, Error error) {
    static <T> Step<T> of(Optional<T> read, Function<T, Batch> rows) {
      long bytes = read.map(rows).map(of -> bytes(of.vectors())).orElse(0L);
      return new Step<>(read, bytes, null, null);
    }

    boolean isLast() {
      return batch.isEmpty();
    }

    private static long bytes(List<Vector> vectors) {
      return vectors.stream().mapToLong(Step::bytes).sum();
    }

    /** About how much memory a vector takes. */
    private static long bytes(Vector vector) {
      long own = 8L * vector.size();
      if (vector instanceof Vector.OfBytes texts) {
        return own + Arrays.stream(texts.lengths(), 0, texts.size()).asLongStream().sum();
      }
      if (vector instanceof Vector.OfList list) {
        return own + bytes(list.elements());
      }
      if (vector instanceof Vector.OfMap map) {
        return own + bytes(map.keys()) + bytes(map.mapped());
      }
      if (vector instanceof Vector.OfStruct struct) {
        return own + bytes(struct.fields());
      }
      return own;
    }

    Optional<T> get() {
      if (error != null) {
        throw error;
      }
      if (failure != null) {
        throw failure;
      }
      return batch;
    }
  }

  /**
   * Reads nothing yet.
   *
   * @param rows the rows that take the memory
   * @param mostBytes a worker goes on while what is ready is less than that
   */
  ReadAhead(Workers workers, Source<T> source, Function<T, Batch> rows, long mostBytes) {
    this.workers = workers;
    this.source = source;
    this.rows = rows;
    this.mostBytes = mostBytes;
  }

  private boolean hasRoom() {
    return !closed && readyBytes < mostBytes;
  }

  /** Has a worker go on, when none is at it and there is room. */
  synchronized void resume() {
    if (workers.threads() > 1 && at == At.REST && hasRoom()) {
      at = At.CALLED;
      if (!queued) {
        queued = true;
        workers.begin(this::work);
      }
    }
  }

  private void work() {
    synchronized (this) {
      queued = false;
      if (at != At.CALLED) {
        return;
      }
      at = At.READING;
    }
    boolean goesOn = true;
    while (goesOn) {
      Step<T> step = read();
      synchronized (this) {
        ready.add(step);
        readyBytes += step.bytes();
        goesOn = !step.isLast() && hasRoom();
        if (!goesOn) {
          at = step.isLast() ? At.END : At.REST;
        }
        notifyAll();
      }
    }
  }

  private Step<T> read() {
    try {
      return Step.of(source.next(), rows);
    } catch (RuntimeException e) {
      return new Step<>(Optional.empty(), 0, e, null);
    } catch (Error e) {
      return new Step<>(Optional.empty(), 0, null, e);
    }
  }

  /** The next batch; empty at the end. */
  Optional<T> take() {
    synchronized (this) {
      awaitStep();
      if (!ready.isEmpty()) {
        Step<T> step = ready.remove();
        readyBytes -= step.bytes();
        resume();
        return step.get();
      }
      if (at == At.END) {
        return Optional.empty();
      }
      at = At.READING;
    }
    Optional<T> own = Optional.empty();
    boolean goesOn = false;
    try {
      own = source.next();
      goesOn = own.isPresent();
    } finally {
      rest(goesOn);
    }
    return own;
  }

  private synchronized void rest(boolean goesOn) {
    at = goesOn ? At.REST : At.END;
    resume();
  }

  private synchronized void awaitStep() {
    try {
      while (ready.isEmpty() && at == At.READING) {
        wait();
      }
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
