package org.ysteron.sql.run;

import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows that the round before has made, in a recursion.
 *
 * @param key of the recursion
 * @param name what the query calls it
 */
public record RoundStep(Object key, String name, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Slices(running.ofRound(key), columns);
  }
}
