package org.ysteron.sql.window;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.Slices;
import org.ysteron.sql.run.SortStep;

/**
 * The functions of one window over rows that do not fit in memory: the rows are sorted, go to files
 * page by page, and are read from there as frames need them.
 *
 * @param columns those of the input, then what the window computes
 */
record WindowInFiles(Step input, Window window, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Source<>() {
      private final List<WindowValues> values = new ArrayList<>();
      private WindowRows rows;
      private Source<SelectedBatch> told;

      @Override
      public Optional<SelectedBatch> next() {
        if (told == null) {
          read();
        }
        return told.next();
      }

      private void read() {
        Step sorted = new SortStep(input, window.allOrders(), Long.MAX_VALUE);
        try (Source<SelectedBatch> ordered = sorted.open(running)) {
          rows = new WindowRows(ordered, input.columns(), window, running);
        }
        for (Window.Call call : window.calls()) {
          values.add(new WindowValues(window, call, rows, input.columns(), running));
        }
        told = Chained.of(rows.pageCount(), page -> new Slices(ofPage(page), columns));
      }

      private Batch ofPage(int number) {
        WindowRows.Page page = rows.numbered(number);
        List<Vector> vectors = new ArrayList<>(page.rows().vectors());
        values.forEach(one -> vectors.add(one.of(page)));
        return new Batch(columns.struct(), page.to() - page.from(), vectors);
      }

      @Override
      public void close() {
        values.forEach(WindowValues::close);
        if (rows != null) {
          rows.close();
        }
      }
    };
  }
}
