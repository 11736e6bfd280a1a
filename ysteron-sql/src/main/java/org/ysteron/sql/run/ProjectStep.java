package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Passing;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;

/**
 * Computed values of rows. Columns pass as they are; what is computed is dense.
 *
 * @param columns as many as there are expressions, with their types
 */
public record ProjectStep(Step input, List<Expression> expressions, Schema columns)
    implements Passing {

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Step over(Step rows) {
    return new ProjectStep(rows, expressions, columns);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    List<Optional<Computation>> computed = new ArrayList<>();
    List<Integer> passed = new ArrayList<>();
    for (Expression expression : expressions) {
      boolean passes = expression instanceof Column column && isWhole(column);
      passed.add(passes ? input.columns().indexOf(name((Column) expression)) : -1);
      computed.add(
          passes
              ? Optional.empty()
              : Optional.of(running.computation(expression, input.columns())));
    }
    Source<SelectedBatch> rows = input.open(running);
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return rows.next().map(batch -> projected(batch, passed, computed));
      }

      @Override
      public void close() {
        rows.close();
      }
    };
  }

  /** Whether it computes nothing. */
  public boolean isPlain() {
    return expressions.stream().allMatch(one -> one instanceof Column column && isWhole(column));
  }

  private static boolean isWhole(Column column) {
    return Schema.parsePath(column.path()).size() == 1;
  }

  private static String name(Column column) {
    return Schema.parsePath(column.path()).get(0);
  }

  private SelectedBatch projected(
      SelectedBatch batch, List<Integer> passed, List<Optional<Computation>> computed) {
    boolean columnsOnly = computed.stream().allMatch(Optional::isEmpty);
    Batch from = columnsOnly ? batch.batch() : Selected.dense(batch);
    List<Vector> vectors = new ArrayList<>();
    for (int c = 0; c < passed.size(); c++) {
      vectors.add(
          computed.get(c).isPresent()
              ? computed.get(c).get().values(from)
              : from.vectors().get(passed.get(c)));
    }
    Batch made = new Batch(columns.struct(), from.size(), vectors);
    return columnsOnly
        ? new SelectedBatch(made, batch.rows(), batch.count())
        : new SelectedBatch(made, null, made.size());
  }
}
