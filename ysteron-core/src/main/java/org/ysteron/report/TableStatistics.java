package org.ysteron.report;

import java.time.Instant;
import java.util.List;

/**
 * Column statistics of one version of a table, measured by sketches. Counts of rows and nulls are
 * exact; distinct counts are usually within 2 %, quantiles within 1 % of the rows; counts of
 * frequent values are lower bounds.
 *
 * @param version the version that was measured
 * @param time when that version was committed
 * @param rows its rows
 * @param columns the measured columns that still exist
 */
public record TableStatistics(long version, Instant time, long rows, List<Column> columns) {
  public TableStatistics {
    columns = List.copyOf(columns);
  }

  /**
   * Statistics of a column.
   *
   * @param path the column
   * @param nulls the number of nulls
   * @param distinct the approximate number of distinct values
   * @param quantiles 17 quantiles from the minimum to the maximum, with about the same number of
   *     values between neighbours; long values are truncated; empty if the values have no order
   * @param frequent frequent values, the most frequent first
   */
  public record Column(
      String path, long nulls, long distinct, List<Object> quantiles, List<Frequent> frequent) {
    public Column {
      quantiles = List.copyOf(quantiles);
      frequent = List.copyOf(frequent);
    }
  }

  /**
   * A frequent value.
   *
   * @param count a lower bound of its count
   */
  public record Frequent(Object value, long count) {}
}
