package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Condition;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Passing;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;

/** The rows for which a condition is true. */
public record FilterStep(Step input, Condition condition) implements Passing {
  @Override
  public Schema columns() {
    return input.columns();
  }

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Step over(Step rows) {
    return new FilterStep(rows, condition);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    Selecting selecting = running.selecting(condition, input.columns());
    Source<SelectedBatch> rows = input.open(running);
    return new Source<>() {
      private int[] kept = {};

      @Override
      public Optional<SelectedBatch> next() {
        Optional<SelectedBatch> batch = rows.next();
        while (batch.isPresent()) {
          SelectedBatch all = batch.get();
          kept = kept.length < all.batch().size() ? new int[all.batch().size()] : kept;
          int count = selecting.select(all.batch(), Selected.rows(all), all.count(), kept);
          if (count > 0) {
            return Optional.of(new SelectedBatch(all.batch(), kept, count));
          }
          batch = rows.next();
        }
        return Optional.empty();
      }

      @Override
      public void close() {
        rows.close();
      }
    };
  }
}
