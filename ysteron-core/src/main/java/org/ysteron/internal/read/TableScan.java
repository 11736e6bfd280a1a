package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.RowSpan;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * The rows of a version that pass, file after file in the order of the tree. With several threads
 * as many files, or runs of row groups of large ones, are read ahead as there are threads. Closing
 * early stops the workers. For one thread.
 */
public final class TableScan implements BatchSource {
  /** A worker is given no less of a file than this. */
  private static final long LEAST_BYTES = 4L << 20;

  private final ReadContext context;
  private final ScanPlan plan;
  private final Schema wanted;
  private final Filter filter;
  private final Deque<FileTask> parts = new ArrayDeque<>();
  private final SourcesAhead rows;
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
    this.plan = new ScanPlan(table, filter, context);
    this.wanted = wanted;
    this.filter = filter;
    this.left = limit;
    this.rows = new SourcesAhead(context.workers(), this::nextSource);
  }

  @Override
  public Optional<Batch> next() {
    if (step == null) {
      step = context.watch().step("read rows", Progress.Unit.ROWS);
    }
    Optional<Batch> batch = left > 0 ? rows.next() : Optional.empty();
    if (batch.isEmpty()) {
      close();
      return batch;
    }
    Batch taken = batch.get().size() > left ? Gather.first(batch.get(), (int) left) : batch.get();
    left -= taken.size();
    step.add(taken.size());
    return Optional.of(taken);
  }

  private Optional<SourcesAhead.Source> nextSource() {
    return nextPart()
        .map(
            task -> {
              FileScan scan =
                  new FileScan(context.store(), context.footers(), task, wanted, filter, null);
              boolean byColumns = isLarge(task) && isWide();
              if (byColumns) {
                scan.sideBySide(context.workers());
              }
              return new SourcesAhead.Source(scan, !byColumns);
            });
  }

  private Optional<FileTask> nextPart() {
    if (parts.isEmpty()) {
      plan.next().ifPresent(task -> cut(FileTask.of(task, context.pages())));
    }
    return Optional.ofNullable(parts.poll());
  }

  /** Cuts a large file between row groups. */
  private void cut(FileTask task) {
    if (context.workers().threads() == 1 || !isLarge(task) || isWide()) {
      parts.add(task);
      return;
    }
    long least = Math.max(1, LEAST_BYTES * task.file().rows() / Math.max(1, task.file().size()));
    long from = 0;
    for (RowSpan group : groups(task)) {
      boolean isLast = group.to() == task.file().rows();
      if (isLast || group.to() - from >= least) {
        parts.add(task.among(new RowSpan(from, group.to())));
        from = group.to();
      }
    }
  }

  private boolean isLarge(FileTask task) {
    return context.workers().threads() > 1 && task.file().size() >= 2 * LEAST_BYTES;
  }

  /** Enough columns to share them among all threads. */
  private boolean isWide() {
    return wanted.columns().size() >= 2 * context.workers().threads();
  }

  private List<RowSpan> groups(FileTask task) {
    try {
      return DataFileReader.groups(context.store(), task.file(), task.table(), context.footers());
    } catch (YsteronException e) {
      return List.of(task.span()); // it is met again when the file's turn comes
    }
  }

  @Override
  public void close() {
    rows.close();
  }
}
