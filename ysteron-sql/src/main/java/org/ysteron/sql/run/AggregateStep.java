package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Expression;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;

/**
 * Groups and their aggregates, by hashing. Without keys there is one group, of no rows too.
 *
 * @param keys what rows are grouped by
 * @param sets the grouping sets, as numbers of keys
 * @param columns the keys, then the aggregates
 */
public record AggregateStep(
    Step input,
    List<Expression> keys,
    List<List<Integer>> sets,
    List<Aggregate> aggregates,
    Schema columns)
    implements Step {
  private static final int BATCH = 8192;

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Grouping(running);
  }

  private final class Grouping implements Source<SelectedBatch> {
    private final Running running;
    private final List<Groups> groups = new ArrayList<>();
    private Source<SelectedBatch> parted;
    private int set;
    private int next;

    Grouping(Running running) {
      this.running = running;
    }

    @Override
    public Optional<SelectedBatch> next() {
      if (groups.isEmpty()) {
        read();
      }
      while (set < groups.size()) {
        int left = groups.get(set).count() - next;
        if (left > 0) {
          int count = Math.min(BATCH, left);
          Batch batch = groups.get(set).batch(next, count);
          next += count;
          return Optional.of(new SelectedBatch(batch, null, count));
        }
        Optional<SelectedBatch> more = parted();
        if (more.isPresent()) {
          return more;
        }
        parted = null;
        set++;
        next = 0;
      }
      close();
      return Optional.empty();
    }

    /** Groups of rows that had to wait in files, part after part. */
    private Optional<SelectedBatch> parted() {
      Groups of = groups.get(set);
      if (of.spill() == null) {
        return Optional.empty();
      }
      if (parted == null) {
        of.release();
        parted = Chained.of(Spill.PARTS, part -> ofPart(of, part));
      }
      return parted.next();
    }

    private Source<SelectedBatch> ofPart(Groups of, int part) {
      Step rows = of.spill().part(part);
      return new AggregateStep(rows, keys, List.of(of.set()), aggregates, columns)
          .open(running.deeper());
    }

    private void read() {
      Optional<Pipeline> pipeline =
          ParallelGroups.canRead(AggregateStep.this, running)
              ? Pipeline.of(input, running)
              : Optional.empty();
      if (pipeline.isEmpty()) {
        read(input);
        return;
      }
      try (Pipeline rows = pipeline.get()) {
        if (!ParallelGroups.read(AggregateStep.this, rows, running, groups)) {
          read(rows.whole());
        }
      }
    }

    private void read(Step rows) {
      for (List<Integer> of : sets) {
        groups.add(new Groups(AggregateStep.this, of, true, running));
      }
      rows.open(running).each(batch -> groups.forEach(one -> one.add(batch)));
      groups.forEach(Groups::end);
    }

    @Override
    public void close() {
      if (parted != null) {
        parted.close();
      }
      groups.forEach(Groups::close);
    }
  }
}
