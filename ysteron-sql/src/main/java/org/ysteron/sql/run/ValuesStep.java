package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/** Rows that the query itself gives; each value is computed. */
public record ValuesStep(List<List<Expression>> rows, Schema columns) implements Step {
  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Slices(() -> all(running), columns);
  }

  private Batch all(Running running) {
    Batch one = new Batch(Schema.NO_COLUMNS.struct(), 1, List.of());
    List<Vector> vectors = new ArrayList<>();
    for (int c = 0; c < columns.columns().size(); c++) {
      VectorBuilder builder =
          new VectorBuilder(columns.columns().get(c).type(), Math.max(1, rows.size()));
      for (List<Expression> row : rows) {
        Computation value = running.computation(row.get(c), Schema.NO_COLUMNS);
        builder.add(value.values(one).get(0));
      }
      vectors.add(builder.buildLast());
    }
    return new Batch(columns.struct(), rows.size(), vectors);
  }
}
