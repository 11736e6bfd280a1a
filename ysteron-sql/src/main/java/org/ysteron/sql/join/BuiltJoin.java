package org.ysteron.sql.join;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/** A join whose right rows have been read; threads that have other left rows share them. */
record BuiltJoin(JoinStep join, BuiltSide built) implements Step {
  @Override
  public Schema columns() {
    return join.columns();
  }

  @Override
  public List<Step> inputs() {
    return join.inputs();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Joining(join, Optional.of(built), Optional.empty(), running);
  }
}
