package org.ysteron.sql.inside;

import java.util.Iterator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Condition;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.RowsBuilder;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows of a table that no data file holds.
 *
 * @param wanted what may be left out; rows that it leaves out can be there all the same
 */
public record InsideStep(InsideTable table, Wanted wanted) implements Step {
  private static final int BATCH = 1024;

  /** The same, of whose rows only those are wanted that fulfil a condition. */
  public InsideStep where(Condition condition) {
    return new InsideStep(table, wanted.and(condition));
  }

  @Override
  public Schema columns() {
    return table.columns();
  }

  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    Stream<Object[]> stream = table.rows().apply(wanted);
    Iterator<Object[]> rows = stream.iterator();
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return rows.hasNext() ? Optional.of(batch(rows, running)) : Optional.empty();
      }

      @Override
      public void close() {
        stream.close();
      }
    };
  }

  private SelectedBatch batch(Iterator<Object[]> rows, Running running) {
    RowsBuilder some = new RowsBuilder(columns(), BATCH);
    while (some.size() < BATCH && rows.hasNext()) {
      running.check();
      some.add(rows.next());
    }
    return new SelectedBatch(some.build(), null, some.size());
  }
}
