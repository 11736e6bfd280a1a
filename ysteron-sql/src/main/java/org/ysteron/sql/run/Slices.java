package org.ysteron.sql.run;

import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/** A large batch in pieces of a usual size. For one thread. */
final class Slices implements Source<SelectedBatch> {
  private static final int BATCH = 8192;

  private final Batch all;
  private int next;

  Slices(Batch all, Schema columns) {
    this.all = new Batch(columns.struct(), all.size(), all.vectors());
  }

  @Override
  public Optional<SelectedBatch> next() {
    int count = Math.min(BATCH, all.size() - next);
    if (count <= 0) {
      return Optional.empty();
    }
    if (count == all.size()) {
      next = count;
      return Optional.of(new SelectedBatch(all, null, count));
    }
    int[] rows = new int[count];
    for (int i = 0; i < count; i++) {
      rows[i] = next++;
    }
    return Optional.of(new SelectedBatch(all, rows, count));
  }

  @Override
  public void close() {}
}
