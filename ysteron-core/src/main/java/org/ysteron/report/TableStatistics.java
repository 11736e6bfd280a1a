package org.ysteron.report;

import java.time.Instant;
import java.util.List;

/**
 * What the values of a table's columns were like at one version, found by sketches: numbers of rows
 * and nulls are exact, distinct values within two of a hundred, quantiles within one of a hundred
 * of the rows, most often; counts of frequent values are lower bounds.
 *
 * @param version the version that was measured
 * @param time when that was made
 * @param rows its rows
 * @param columns of each column that was measured and is still there
 */
public record TableStatistics(long version, Instant time, long rows, List<Column> columns) {
  public TableStatistics {
    columns = List.copyOf(columns);
  }

  /**
   * A column's values.
   *
   * @param path the column
   * @param nulls rows without one
   * @param distinct about how many different ones there are
   * @param quantiles from the least to the greatest, seventeen with as many values between each
   *     two; long texts and bytes are cut; empty when there are none that have an order
   * @param frequent values that many rows have, the most frequent first
   */
  public record Column(
      String path, long nulls, long distinct, List<Object> quantiles, List<Frequent> frequent) {
    public Column {
      quantiles = List.copyOf(quantiles);
      frequent = List.copyOf(frequent);
    }
  }

  /**
   * A value that many rows have.
   *
   * @param count at least how many
   */
  public record Frequent(Object value, long count) {}
}
