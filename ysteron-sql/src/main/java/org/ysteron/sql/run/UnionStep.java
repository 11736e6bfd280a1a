package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Chained;
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
    Chained rows = Chained.of(inputs.size(), input -> inputs.get(input).open(running));
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return rows.next().map(UnionStep.this::renamed);
      }

      @Override
      public void close() {
        rows.close();
      }
    };
  }

  private SelectedBatch renamed(SelectedBatch of) {
    Batch same = new Batch(columns.struct(), of.batch().size(), of.batch().vectors());
    return new SelectedBatch(same, of.rows(), of.count());
  }
}
