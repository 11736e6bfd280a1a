package org.ysteron.sql.run;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.MergedRuns;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;

/**
 * Rows in an order; equal ones stay as they come.
 *
 * @param most at most so many are wanted, so that others need not be kept
 */
public record SortStep(Step input, List<Ordering.Order> orders, long most) implements Step {
  private static final int BATCH = 8192;
  private static final int LEAST_KEPT = 4 * BATCH;

  @Override
  public Schema columns() {
    return input.columns();
  }

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Sorted(running);
  }

  private final class Sorted implements Source<SelectedBatch> {
    private final Running running;
    private Kept kept;
    private Spill runs;
    private MergedRuns merged;
    private Batch rows;
    private int[] order;
    private int next;

    Sorted(Running running) {
      this.running = running;
    }

    @Override
    public Optional<SelectedBatch> next() {
      if (rows == null && merged == null) {
        read();
      }
      if (merged != null) {
        return merged.next();
      }
      int count = Math.min(BATCH, order.length - next);
      if (count <= 0) {
        close();
        return Optional.empty();
      }
      Batch batch = Gather.rows(rows, Arrays.copyOfRange(order, next, next + count));
      next += count;
      return Optional.of(new SelectedBatch(batch, null, count));
    }

    private void read() {
      Kept[] now = {new Kept(columns(), running, "a sort")};
      long prune = most > Integer.MAX_VALUE / 4 ? Long.MAX_VALUE : Math.max(LEAST_KEPT, 2 * most);
      input
          .open(running)
          .each(
              batch -> {
                now[0].add(batch);
                if (now[0].rows() > prune) {
                  now[0] = best(now[0]);
                } else if (running.isTight(2 * now[0].bytes()) && now[0].rows() >= BATCH) {
                  putAway(now[0]);
                  now[0] = new Kept(columns(), running, "a sort");
                }
              });
      if (runs != null) {
        putAway(now[0]);
        merged = new MergedRuns(runs, columns(), orders);
        return;
      }
      kept = now[0];
      rows = kept.all();
      order = firsts(rows);
    }

    /** Writes rows that were kept as a file, in their order. */
    private void putAway(Kept all) {
      runs = runs == null ? new Spill(columns(), 1, running) : runs;
      Batch batch = all.all();
      if (batch.size() > 0) {
        runs.addRun(Gather.rows(batch, firsts(batch)));
      }
      all.release();
    }

    /** The first rows alone; others would not be wanted. */
    private Kept best(Kept all) {
      Batch batch = all.all();
      int[] first = firsts(batch);
      Arrays.sort(first); // equal rows stay as they came
      Kept left = new Kept(columns(), running, "a sort");
      left.add(new SelectedBatch(batch, first, first.length));
      all.release();
      return left;
    }

    private int[] firsts(Batch batch) {
      int[] all = Ordering.sorted(batch, orders, running);
      return most < all.length ? Arrays.copyOf(all, (int) most) : all;
    }

    @Override
    public void close() {
      if (kept != null) {
        kept.release();
      }
      if (merged != null) {
        merged.close();
      }
      if (runs != null) {
        runs.close();
      }
    }
  }
}
