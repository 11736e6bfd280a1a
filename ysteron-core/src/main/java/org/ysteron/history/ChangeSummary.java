package org.ysteron.history;

import java.math.BigDecimal;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;

/**
 * What differs between two versions, in numbers.
 *
 * @param counts how many rows differ
 * @param partitions how many rows differ by partition, an updated row in the partition that it is
 *     in afterwards; empty for a table without partitions
 * @param columns the columns in which updated rows differ, in the order of the table
 */
public record ChangeSummary(
    ChangeCounts counts, SortedMap<String, ChangeCounts> partitions, List<OfColumn> columns) {

  /**
   * What differs in one column of updated rows.
   *
   * @param column the column's name
   * @param differing how many rows have another value in it
   * @param toNull how many of these have no value afterwards
   * @param fromNull how many of these had no value before
   * @param numbers how far numbers moved; empty for a column without numbers
   * @param times how far dates and times moved; empty for a column without them
   */
  public record OfColumn(
      String column,
      long differing,
      long toNull,
      long fromNull,
      Optional<Numbers> numbers,
      Optional<Times> times) {}

  /**
   * How far dates and times moved, in rows that have different ones in both versions.
   *
   * @param rows how many rows these are
   * @param least the least of the differences, after minus before
   * @param greatest the greatest of the differences, after minus before
   */
  public record Times(long rows, Duration least, Duration greatest) {}

  /**
   * How far numbers moved, in rows that have different numbers in both versions.
   *
   * @param rows how many rows these are
   * @param sumBefore the sum of the numbers before
   * @param sumAfter the sum of the numbers after
   * @param meanBefore the mean of the numbers before
   * @param meanAfter the mean of the numbers after
   * @param least the least of the differences, after minus before
   * @param greatest the greatest of the differences, after minus before
   */
  public record Numbers(
      long rows,
      BigDecimal sumBefore,
      BigDecimal sumAfter,
      BigDecimal meanBefore,
      BigDecimal meanAfter,
      BigDecimal least,
      BigDecimal greatest) {}
}
