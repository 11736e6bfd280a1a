package org.ysteron.data;

import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.NoSuchElementException;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.jspecify.annotations.Nullable;

/**
 * The results of a scan, which can be iterated once. Close it unless it is read to its end. For one
 * thread.
 *
 * @param <T> batches, rows or records
 */
public final class Results<T> implements Iterable<T>, AutoCloseable {
  private final Supplier<@Nullable T> source;
  private final Runnable close;
  private final Iterator<T> cursor = new Cursor();
  private boolean ended;

  /** {@code source} gives null at the end. */
  public Results(Supplier<@Nullable T> source, Runnable close) {
    this.source = source;
    this.close = close;
  }

  /** The one iterator over the results. */
  @Override
  public Iterator<T> iterator() {
    return cursor;
  }

  /** The next result; empty at the end. */
  public Optional<T> next() {
    return cursor.hasNext() ? Optional.of(cursor.next()) : Optional.empty();
  }

  /** The results left, as a stream that closes them. */
  public Stream<T> stream() {
    return StreamSupport.stream(spliterator(), false).onClose(this::close);
  }

  /** The results left, all at once. */
  public List<T> toList() {
    List<T> list = new ArrayList<>();
    forEach(list::add);
    return list;
  }

  @Override
  public void close() {
    if (!ended) {
      ended = true;
      close.run();
    }
  }

  private final class Cursor implements Iterator<T> {
    private @Nullable T next;

    @Override
    public boolean hasNext() {
      if (next == null && !ended) {
        next = source.get();
        if (next == null) {
          close();
        }
      }
      return next != null;
    }

    @Override
    public T next() {
      if (!hasNext()) {
        throw new NoSuchElementException("the scan has no more results");
      }
      T result = Objects.requireNonNull(next);
      next = null;
      return result;
    }
  }
}
