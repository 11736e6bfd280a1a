package org.ysteron.internal.read;

import java.util.Optional;
import java.util.function.Consumer;

/**
 * Things one after the other. For one thread.
 *
 * @param <T> one of them
 */
public interface Source<T> extends AutoCloseable {

  /** Nothing. */
  static <T> Source<T> empty() {
    return new Source<>() {
      @Override
      public Optional<T> next() {
        return Optional.empty();
      }

      @Override
      public void close() {}
    };
  }

  /** The next one; empty at the end. */
  Optional<T> next();

  @Override
  void close();

  /** Hands over all that are left and closes this, also when that fails. */
  default void each(Consumer<? super T> taker) {
    try (this) {
      for (Optional<T> one = next(); one.isPresent(); one = next()) {
        taker.accept(one.get());
      }
    }
  }
}
