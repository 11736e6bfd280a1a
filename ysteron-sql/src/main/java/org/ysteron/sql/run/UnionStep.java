package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * All rows of several steps, one after the other.
 *
 * @param inputs with columns of the same types
 */
public record UnionStep(List<Step> inputs, Schema columns) implements Step {
  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Source<>() {
      private int next;
      private Source<SelectedBatch> rows;

      @Override
      public Optional<SelectedBatch> next() {
        while (true) {
          if (rows == null) {
            if (next == inputs.size()) {
              return Optional.empty();
            }
            rows = inputs.get(next++).open(running);
          }
          Optional<SelectedBatch> batch = rows.next();
          if (batch.isPresent()) {
            SelectedBatch of = batch.get();
            Batch renamed = new Batch(columns.struct(), of.batch().size(), of.batch().vectors());
            return Optional.of(new SelectedBatch(renamed, of.rows(), of.count()));
          }
          rows.close();
          rows = null;
        }
      }

      @Override
      public void close() {
        if (rows != null) {
          rows.close();
        }
      }
    };
  }
}
