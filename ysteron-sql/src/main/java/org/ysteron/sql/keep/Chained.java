package org.ysteron.sql.keep;

import java.util.Optional;
import java.util.function.IntFunction;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/**
 * The rows of several sources, one after the other; each is opened when its turn comes and closed
 * when it has ended. For one thread.
 */
public final class Chained implements Source<SelectedBatch> {
  private final Supplier<Optional<Source<SelectedBatch>>> more;
  private @Nullable Source<SelectedBatch> rows;

  /** {@code more}: opens the next source; empty when there is no other. */
  public Chained(Supplier<Optional<Source<SelectedBatch>>> more) {
    this.more = more;
  }

  /** So many sources, each opened by its number. */
  public static Chained of(int count, IntFunction<Source<SelectedBatch>> opened) {
    int[] next = {0};
    return new Chained(
        () -> next[0] == count ? Optional.empty() : Optional.of(opened.apply(next[0]++)));
  }

  @Override
  public Optional<SelectedBatch> next() {
    while (true) {
      if (rows == null) {
        Optional<Source<SelectedBatch>> source = more.get();
        if (source.isEmpty()) {
          return Optional.empty();
        }
        rows = source.get();
      }
      Optional<SelectedBatch> batch = rows.next();
      if (batch.isPresent()) {
        return batch;
      }
      close();
    }
  }

  @Override
  public void close() {
    if (rows != null) {
      rows.close();
      rows = null;
    }
  }
}
