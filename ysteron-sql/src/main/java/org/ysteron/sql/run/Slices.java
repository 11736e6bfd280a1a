package org.ysteron.sql.run;

import java.util.Optional;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Selected;

/**
 * A large batch in pieces of a usual size. The pieces are batches of their own, since what computes
 * with a batch takes room for all of its rows. For one thread.
 */
public final class Slices implements Source<SelectedBatch> {
  private static final int BATCH = 8192;

  private final Supplier<Batch> making;
  private final Schema columns;
  private @Nullable Batch all;
  private int next;

  /** Rows that are there. */
  public Slices(Batch rows, Schema columns) {
    this(() -> rows, columns);
  }

  /** Rows that are made when the first of them are asked for. */
  public Slices(Supplier<Batch> making, Schema columns) {
    this.making = making;
    this.columns = columns;
  }

  @Override
  public Optional<SelectedBatch> next() {
    if (all == null) {
      Batch made = making.get();
      all = new Batch(columns.struct(), made.size(), made.vectors());
    }
    int count = Math.min(BATCH, all.size() - next);
    if (count <= 0) {
      return Optional.empty();
    }
    Batch some = count == all.size() ? all : Gather.rows(all, Selected.between(next, next + count));
    next += count;
    return Optional.of(new SelectedBatch(some, null, count));
  }

  @Override
  public void close() {}
}
