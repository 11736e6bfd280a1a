package org.ysteron.sql.run;

import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * Rows that are there already.
 *
 * @param what where they come from, for people
 */
public record RowsStep(Batch rows, Schema columns, String what) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Slices(rows, columns);
  }
}
