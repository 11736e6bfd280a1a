package org.ysteron.sql.run;

import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/** Rows that are being read already; it can be opened once. */
public record OnceStep(Source<SelectedBatch> rows, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return rows;
  }
}
