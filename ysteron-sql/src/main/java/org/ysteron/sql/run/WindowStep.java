package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Parted;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * Window functions: rows with what is computed of the rows around them. Rows that do not fit in
 * memory go to files by the keys of their partitions; where a window has none, all rows are kept.
 *
 * @param columns those of the input, then what each window computes
 */
public record WindowStep(Step input, List<Window> windows, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Source<>() {
      private final Kept kept = new Kept(input.columns(), running, "window functions");
      private Parted parted;
      private Source<SelectedBatch> told;

      @Override
      public Optional<SelectedBatch> next() {
        if (told == null) {
          told = read();
        }
        Optional<SelectedBatch> batch = told.next();
        if (batch.isEmpty()) {
          close();
        }
        return batch;
      }

      private Source<SelectedBatch> read() {
        Set<Integer> keys = keys();
        input
            .open(running)
            .each(
                batch -> {
                  if (parted != null) {
                    parted.add(batch);
                    return;
                  }
                  kept.add(batch);
                  if (!keys.isEmpty() && running.isTight(2 * kept.bytes())) {
                    Schema from = input.columns();
                    parted = new Parted(from, Keys.columns(from, keys), running);
                    Batch held = kept.all();
                    kept.release();
                    parted.add(new SelectedBatch(held, null, held.size()));
                  }
                });
        return parted == null
            ? new Slices(computed(kept.all(), running), columns)
            : parted.each(part -> new WindowStep(part, windows, columns));
      }

      @Override
      public void close() {
        kept.release();
        if (told != null) {
          told.close();
        }
        if (parted != null) {
          parted.close();
        }
      }
    };
  }

  /** The columns by which all windows part their rows. */
  private Set<Integer> keys() {
    Set<Integer> keys = new TreeSet<>(windows.get(0).keys());
    windows.forEach(window -> keys.retainAll(window.keys()));
    return keys;
  }

  private Batch computed(Batch rows, Running running) {
    List<Vector> vectors = new ArrayList<>(rows.vectors());
    for (Window window : windows) {
      List<Ordering.Order> byKey = new ArrayList<>();
      window.keys().forEach(key -> byKey.add(new Ordering.Order(key, false, false)));
      List<Ordering.Order> orders = new ArrayList<>(byKey);
      orders.addAll(window.orders());
      int[] sorted = Ordering.sorted(rows, orders, running);
      boolean[] newPartition = Ordering.changes(rows, byKey, sorted);
      boolean[] newPeers = Ordering.changes(rows, orders, sorted);
      for (Window.Call call : window.calls()) {
        WindowValues values = new WindowValues(window, call, rows, sorted, newPeers, running);
        int from = 0;
        while (from < sorted.length) {
          running.check();
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
