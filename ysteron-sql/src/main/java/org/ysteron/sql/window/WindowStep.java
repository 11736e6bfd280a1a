package org.ysteron.sql.window;

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
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Parted;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.OnceStep;
import org.ysteron.sql.run.Slices;

/**
 * Window functions: rows with what is computed of the rows around them. Rows that do not fit in
 * memory go to files by the keys of their partitions; where all windows have no key in common, or a
 * partition does not fit, in the order of each window.
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
      private Source<SelectedBatch> reading;
      private Spill first;
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
        Source<SelectedBatch> rows = input.open(running);
        reading = rows;
        for (Optional<SelectedBatch> some = rows.next(); some.isPresent(); some = rows.next()) {
          SelectedBatch batch = some.get();
          if (parted != null) {
            parted.add(batch);
            continue;
          }
          kept.add(batch);
          if (!running.isTight(2 * kept.bytes())) {
            continue;
          }
          if (keys.isEmpty() || running.depth() > 0) {
            first = new Spill(input.columns(), 1, running);
            first.addRun(kept.all());
            kept.release();
            return inFiles(first, rows, running);
          }
          Schema from = input.columns();
          parted = new Parted(from, Keys.columns(from, keys), running);
          Batch held = kept.all();
          kept.release();
          parted.add(new SelectedBatch(held, null, held.size()));
        }
        rows.close();
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
        if (reading != null) {
          reading.close();
        }
        if (first != null) {
          first.close();
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
      WindowRows ordered = new WindowRows(rows, window, running);
      int[] places = inverse(ordered.sorted());
      for (Window.Call call : window.calls()) {
        try (WindowValues values =
            new WindowValues(window, call, ordered, input.columns(), running)) {
          vectors.add(Gather.values(values.of(ordered.numbered(0)), places));
        }
      }
    }
    return new Batch(columns.struct(), rows.size(), vectors);
  }

  /** Rows that are not parted by keys, or of which too many have the same: window by window. */
  private Source<SelectedBatch> inFiles(
      Spill first, Source<SelectedBatch> others, Running running) {
    Source<SelectedBatch> all =
        Chained.of(2, part -> part == 0 ? first.part(0).begin(running) : others);
    Window window = windows.get(0);
    int count = input.columns().columns().size() + window.calls().size();
    Schema told = Schema.of(columns.columns().subList(0, count));
    Step step = new WindowInFiles(new OnceStep(all, input.columns()), window, told);
    List<Window> more = windows.subList(1, windows.size());
    return (more.isEmpty() ? step : new WindowStep(step, more, columns)).begin(running);
  }

  /** Positions in the order of the rows, for what was computed in another. */
  private static int[] inverse(int[] sorted) {
    int[] places = new int[sorted.length];
    for (int i = 0; i < sorted.length; i++) {
      places[sorted[i]] = i;
    }
    return places;
  }
}
