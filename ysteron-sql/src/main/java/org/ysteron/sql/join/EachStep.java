package org.ysteron.sql.join;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.RowsStep;

/**
 * A join with a relation that is another one for each left row; what is done when no rule has made
 * a plain join of a subquery. Rows of a batch that need the same relation share it.
 *
 * @param used the numbers of the left columns that the relation depends on
 * @param right the relation for a left row, a batch of one row
 * @param shape the join, whose right side is the relation for a row of nulls
 */
public record EachStep(Step left, List<Integer> used, Function<Batch, Step> right, JoinStep shape)
    implements Step {

  @Override
  public Schema columns() {
    return shape.columns();
  }

  @Override
  public List<Step> inputs() {
    return List.of(left, shape.right());
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    Source<SelectedBatch> rows = left.open(running);
    Deque<Batch> waiting = new ArrayDeque<>();
    Chained joined =
        new Chained(
            () -> {
              while (waiting.isEmpty()) {
                Optional<SelectedBatch> more = rows.next();
                if (more.isEmpty()) {
                  return Optional.empty();
                }
                waiting.addAll(alike(Selected.dense(more.get())));
              }
              return Optional.of(joined(waiting.remove()).open(running));
            });
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return joined.next();
      }

      @Override
      public void close() {
        joined.close();
        rows.close();
      }
    };
  }

  private Step joined(Batch some) {
    Step these = new RowsStep(some, left.columns(), "outside");
    Step of = right.apply(Gather.first(some, 1));
    return new JoinStep(
        shape.kind(),
        these,
        of,
        List.of(),
        List.of(),
        false,
        shape.rest(),
        shape.both(),
        shape.columns());
  }

  /** The rows by the values that the relation depends on. */
  private List<Batch> alike(Batch batch) {
    Map<List<Object>, List<Integer>> groups = new LinkedHashMap<>();
    for (int i = 0; i < batch.size(); i++) {
      List<Object> values = new ArrayList<>();
      for (int column : used) {
        values.add(batch.vectors().get(column).get(i));
      }
      groups.computeIfAbsent(values, key -> new ArrayList<>()).add(i);
    }
    List<Batch> parts = new ArrayList<>();
    for (List<Integer> rows : groups.values()) {
      parts.add(Gather.rows(batch, rows.stream().mapToInt(Integer::intValue).toArray()));
    }
    return parts;
  }
}
