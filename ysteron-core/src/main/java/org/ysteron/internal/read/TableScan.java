package org.ysteron.internal.read;

import java.util.List;
import java.util.Optional;
import java.util.stream.IntStream;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
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
   * Starts a scan whose batches carry which of their rows count.
   *
   * @param wanted the columns
   * @param limit at most so many rows
   * @param located tells where rows are, if that is wanted
   */
  public static Source<SelectedBatch> carrying(
      ReadContext context,
      VersionPage table,
      Schema wanted,
      Filter filter,
      long limit,
      Optional<Located> located) {
    ScanPlan plan = new ScanPlan(table, filter, context);
    FilesScan files =
        located.isPresent()
            ? FilesScan.of(context, plan, wanted, filter)
            : FilesScan.carrying(context, plan, wanted, filter);
    return carrying(new TableScan(context, files, limit), located);
  }

  /**
   * The same in several scans, which share the files among them; each is for one thread.
   *
   * @param count how many
   * @param located tells where rows are, if that is wanted
   */
  public static List<Source<SelectedBatch>> shared(
      ReadContext context,
      VersionPage table,
      Schema wanted,
      Filter filter,
      int count,
      Optional<Located> located) {
    ScanPlan plan = new ScanPlan(table, filter, context);
    return FilesScan.shared(context, plan, wanted, filter, count, located.isPresent()).stream()
        .map(files -> carrying(new TableScan(context, files, Long.MAX_VALUE), located))
        .toList();
  }

  private static Source<SelectedBatch> carrying(TableScan scan, Optional<Located> located) {
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return scan.take().map(rows -> first(told(rows), scan.count(rows)));
      }

      private SelectedBatch told(FileRows rows) {
        return located.map(places -> places.told(rows)).orElseGet(rows::selected);
      }

      @Override
      public void close() {
        scan.close();
      }
    };
  }

  private static SelectedBatch first(SelectedBatch batch, int most) {
    return most == batch.count()
        ? batch
        : new SelectedBatch(batch.batch(), IntStream.range(0, most).map(batch::at).toArray(), most);
  }

  private TableScan(ReadContext context, FilesScan rows, long limit) {
    this.context = context;
    this.rows = rows;
    this.left = limit;
  }

  /**
   * Starts a scan.
   *
   * @param wanted the columns
   * @param limit at most so many rows
   */
  public TableScan(
      ReadContext context, VersionPage table, Schema wanted, Filter filter, long limit) {
    this(
        context,
        FilesScan.unplaced(context, new ScanPlan(table, filter, context), wanted, filter),
        limit);
  }

  @Override
  public Optional<Batch> next() {
    return take()
        .map(
            rows -> {
              int most = count(rows);
              return most == rows.size() ? rows.read() : Gather.first(rows.read(), most);
            });
  }

  private Optional<FileRows> take() {
    if (step == null) {
      step = context.watch().step("read rows", Progress.Unit.ROWS);
    }
    Optional<FileRows> taken = left > 0 ? rows.next() : Optional.empty();
    if (taken.isEmpty()) {
      close();
    }
    return taken;
  }

  /** How many of some rows are handed out. */
  private int count(FileRows taken) {
    int most = (int) Math.min(left, taken.size());
    left -= most;
    step.add(most);
    return most;
  }

  @Override
  public void close() {
    rows.close();
  }
}
