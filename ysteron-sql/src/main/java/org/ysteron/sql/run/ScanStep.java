package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.Scan;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Condition;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows of a table that pass a condition.
 *
 * @param scan what is read
 * @param counted whether only the number of rows is wanted, and no column of them
 * @param columns those of the scan, which finds them anew each time
 */
public record ScanStep(Scan scan, boolean counted, Schema columns) implements Step {
  private static final int MOST_ROWS = 1 << 20;

  /** The rows of a scan with its columns. */
  public static ScanStep of(Scan scan) {
    return new ScanStep(scan, false, scan.schema());
  }

  /** As many rows as a scan has. */
  public static ScanStep counting(Scan scan) {
    return new ScanStep(scan, true, Schema.NO_COLUMNS);
  }

  /** The same where a condition is true. */
  public ScanStep where(Condition condition) {
    return new ScanStep(scan.where(condition), counted, columns);
  }

  @Override
  public Source<SelectedBatch> open(Running running) {
    return counted ? new Count(scan) : new Rows(scan.selectedBatches());
  }

  private static final class Rows implements Source<SelectedBatch> {
    private final Results<SelectedBatch> results;

    Rows(Results<SelectedBatch> results) {
      this.results = results;
    }

    @Override
    public Optional<SelectedBatch> next() {
      return results.next();
    }

    @Override
    public void close() {
      results.close();
    }
  }

  /** As many rows without columns as there are. */
  private static final class Count implements Source<SelectedBatch> {
    private final Scan scan;
    private long left = -1;

    Count(Scan scan) {
      this.scan = scan;
    }

    @Override
    public Optional<SelectedBatch> next() {
      left = left < 0 ? scan.count() : left;
      int size = (int) Math.min(left, MOST_ROWS);
      left -= size;
      return size == 0
          ? Optional.empty()
          : Optional.of(
              new SelectedBatch(
                  new Batch(Schema.NO_COLUMNS.struct(), size, List.of()), null, size));
    }

    @Override
    public void close() {}
  }
}
