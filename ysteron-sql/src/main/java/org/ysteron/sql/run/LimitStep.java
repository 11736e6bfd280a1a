package org.ysteron.sql.run;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;

/**
 * Some rows behind some others.
 *
 * @param offset how many rows are left out first
 * @param limit at most so many follow
 */
public record LimitStep(Step input, long offset, long limit) implements Step {
  @Override
  public Schema columns() {
    return input.columns();
  }

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    Source<SelectedBatch> rows = input.open(running);
    return new Source<>() {
      private long skip = offset;
      private long left = limit;

      @Override
      public Optional<SelectedBatch> next() {
        while (left > 0) {
          Optional<SelectedBatch> batch = rows.next();
          if (batch.isEmpty()) {
            return batch;
          }
          int count = batch.get().count();
          int from = (int) Math.min(skip, count);
          int to = from + (int) Math.min(count - from, left);
          skip -= from;
          left -= to - from;
          if (to > from) {
            return Optional.of(
                from == 0 && to == count
                    ? batch.get()
                    : new SelectedBatch(
                        batch.get().batch(),
                        Arrays.copyOfRange(Selected.rows(batch.get()), from, to),
                        to - from));
          }
        }
        rows.close();
        return Optional.empty();
      }

      @Override
      public void close() {
        rows.close();
      }
    };
  }
}
