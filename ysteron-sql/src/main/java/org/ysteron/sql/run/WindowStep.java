package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * Window functions: rows with what is computed of the rows around them.
 *
 * @param columns those of the input, then what each window computes
 */
public record WindowStep(Step input, List<Window> windows, Schema columns) implements Step {
  private static final int BATCH = 8192;

  @Override
  public Source<SelectedBatch> open(Running running) {
    return new Source<>() {
      private final Kept kept = new Kept(input.columns(), running, "window functions");
      private Batch all;
      private int next;

      @Override
      public Optional<SelectedBatch> next() {
        if (all == null) {
          input.open(running).each(kept::add);
          all = computed(kept.all(), running);
        }
        int count = Math.min(BATCH, all.size() - next);
        if (count == 0) {
          close();
          return Optional.empty();
        }
        int[] rows = new int[count];
        for (int i = 0; i < count; i++) {
          rows[i] = next++;
        }
        return Optional.of(new SelectedBatch(Gather.rows(all, rows), null, count));
      }

      @Override
      public void close() {
        kept.release();
      }
    };
  }

  private Batch computed(Batch rows, Running running) {
    List<Vector> vectors = new ArrayList<>(rows.vectors());
    for (Window window : windows) {
      List<Ordering.Order> byKey = new ArrayList<>();
      window.keys().forEach(key -> byKey.add(new Ordering.Order(key, false, false)));
      List<Ordering.Order> orders = new ArrayList<>(byKey);
      orders.addAll(window.orders());
      int[] sorted = Ordering.sorted(rows, orders);
      boolean[] newPartition = Ordering.changes(rows, byKey, sorted);
      boolean[] newPeers = Ordering.changes(rows, orders, sorted);
      for (Window.Call call : window.calls()) {
        WindowValues values = new WindowValues(window, call, rows, sorted, newPeers, running);
        int from = 0;
        while (from < sorted.length) {
          int to = from + 1;
          while (to < sorted.length && !newPartition[to]) {
            to++;
          }
          values.partition(from, to);
          from = to;
        }
        vectors.add(values.all());
      }
    }
    return new Batch(columns.struct(), rows.size(), vectors);
  }

  /** Positions in the order of the rows, for what was computed in another. */
  static int[] inverse(int[] sorted) {
    int[] places = new int[sorted.length];
    for (int i = 0; i < sorted.length; i++) {
      places[sorted[i]] = i;
    }
    return places;
  }
}
