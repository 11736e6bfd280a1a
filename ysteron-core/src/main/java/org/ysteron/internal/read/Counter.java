package org.ysteron.internal.read;

import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/** Counts the rows that pass, reading only files whose ranges do not decide. */
public final class Counter {
  private final ReadContext context;
  private final VersionPage table;
  private final Filter filter;

  public Counter(ReadContext context, VersionPage table, Filter filter) {
    this.context = context;
    this.table = table;
    this.filter = filter;
  }

  /** At most {@code limit}. */
  public long count(long limit) {
    if (filter.isTrivial()) {
      return Math.min(limit, table.record().totals().rows());
    }
    ScanPlan plan = new ScanPlan(table, filter, context);
    Schema tested =
        Schema.stored(
            table.schema().columns().stream().limit(1).toList(),
            java.util.List.of(),
            table.schema().lastId());
    long count = 0;
    Watch.Step step = context.watch().step("count rows of files", Progress.Unit.FILES);
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent() && count < limit) {
      if (task.get().filtered()) {
        try (FileScan scan = new FileScan(context, task.get(), tested, filter)) {
          Optional<Batch> batch = scan.next();
          while (batch.isPresent()) {
            count += batch.get().size();
            batch = scan.next();
          }
        }
      } else {
        count += task.get().entry().rows() - task.get().entry().numbers().maskedRows();
      }
      step.add(1);
      task = plan.next();
    }
    return Math.min(limit, count);
  }
}
