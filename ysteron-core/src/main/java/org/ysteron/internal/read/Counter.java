package org.ysteron.internal.read;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/** Counts the rows that pass, reading only files whose ranges do not decide. For one thread. */
public final class Counter {
  private final ReadContext context;
  private final VersionPage table;
  private final Filter filter;
  private long count;

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
    Schema none = Schema.stored(List.of(), List.of(), table.schema().lastId());
    Watch.Step step = context.watch().step("count rows of files", Progress.Unit.FILES);
    try (FilesScan scan = FilesScan.unplaced(context, () -> undecided(plan, step), none, filter)) {
      Optional<FileRows> rows = scan.next();
      while (rows.isPresent() && count < limit) {
        count += rows.get().size();
        rows = scan.next();
      }
    }
    return Math.min(limit, count);
  }

  /** The next file that has to be read; those before it are counted. */
  private Optional<FilesScan.Part> undecided(ScanPlan plan, Watch.Step step) {
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent() && !task.get().filtered()) {
      count += task.get().entry().liveRows();
      step.add(1);
      task = plan.next();
    }
    task.ifPresent(file -> step.add(1));
    return task.map(file -> new FilesScan.Part(file, null));
  }
}
