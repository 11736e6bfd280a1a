package org.ysteron.sql.inside;

import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.intake.OutsideFile;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows of a file outside of the lake.
 *
 * @param name the file, for people
 */
public record FileStep(OutsideFile file, String name, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new FileRows(file, columns, running);
  }
}
