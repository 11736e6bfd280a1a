package org.ysteron.internal.read;

import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/** The rows of a version that pass, in the order of its files. For one thread. */
public final class TableScan implements BatchSource {
  private final ReadContext context;
  private final FilesScan rows;
  private Watch.Step step;
  private long left;

  /**
   * Starts a scan.
   *
   * @param wanted the columns
   * @param limit at most so many rows
   */
  public TableScan(
      ReadContext context, VersionPage table, Schema wanted, Filter filter, long limit) {
    this.context = context;
    this.left = limit;
    this.rows = FilesScan.of(context, new ScanPlan(table, filter, context), wanted, filter);
  }

  @Override
  public Optional<Batch> next() {
    if (step == null) {
      step = context.watch().step("read rows", Progress.Unit.ROWS);
    }
    Optional<Batch> batch = left > 0 ? rows.next().map(FileRows::read) : Optional.empty();
    if (batch.isEmpty()) {
      close();
      return batch;
    }
    Batch taken = batch.get().size() > left ? Gather.first(batch.get(), (int) left) : batch.get();
    left -= taken.size();
    step.add(taken.size());
    return Optional.of(taken);
  }

  @Override
  public void close() {
    rows.close();
  }
}
