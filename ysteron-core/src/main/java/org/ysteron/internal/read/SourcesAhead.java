package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.data.Batch;
import org.ysteron.internal.work.Workers;

/**
 * The batches of several sources, one source after the other. With several threads as many sources
 * are read ahead as there are threads. Closing early stops the workers. For one thread.
 *
 * @param <T> a batch, or one with more about it
 */
public final class SourcesAhead<T> implements Source<T> {
  /** So much of a source is read while the one before it is taken. */
  private static final long MOST_BYTES_AHEAD = 128L << 20;

  private final Workers workers;
  private final Function<T, Batch> rows;
  private final Supplier<Optional<Part<T>>> more;
  private final Deque<ReadAhead<T>> ahead = new ArrayDeque<>();
  private boolean ended;

  /**
   * One of them.
   *
   * @param readAhead whether workers may read it ahead of who takes it
   */
  public record Part<T>(Source<T> rows, boolean readAhead) {}

  /**
   * Reads nothing yet.
   *
   * @param rows the rows that take the memory
   * @param more the next source; empty when there is no other
   */
  public SourcesAhead(Workers workers, Function<T, Batch> rows, Supplier<Optional<Part<T>>> more) {
    this.workers = workers;
    this.rows = rows;
    this.more = more;
  }

  @Override
  public Optional<T> next() {
    while (true) {
      readAhead();
      ReadAhead<T> first = ahead.peek();
      if (first == null) {
        return Optional.empty();
      }
      Optional<T> batch = first.take();
      if (batch.isPresent()) {
        return batch;
      }
      ahead.remove().close();
    }
  }

  private void readAhead() {
    while (!ended && ahead.size() < workers.threads()) {
      Optional<Part<T>> source = more.get();
      if (source.isEmpty()) {
        ended = true;
        return;
      }
      long most = source.get().readAhead() ? bytesAhead() : 0;
      ahead.add(new ReadAhead<>(workers, source.get().rows(), rows, most));
      if (ahead.size() == 1) {
        continue; // the first one is read by the caller until a second one comes
      }
      ahead.forEach(ReadAhead::resume);
    }
  }

  /** No more than the memory of a call for all that is read ahead. */
  private long bytesAhead() {
    long share = workers.means().memory() / workers.threads();
    return Math.min(MOST_BYTES_AHEAD, share);
  }

  @Override
  public void close() {
    ended = true;
    while (!ahead.isEmpty()) {
      ahead.remove().close();
    }
  }
}
