package org.ysteron.report;

import java.util.Map;

/**
 * A data file of a table.
 *
 * @param number its number in its table, for life
 * @param name of the object in the store
 * @param rows rows, masked ones included
 * @param maskedRows rows that no longer count
 * @param bytes its size
 * @param oldestBirth the ordinal of the first commit that gave a row of it its values
 * @param newestBirth the ordinal of the last one
 * @param layout the version of the layout it was written by
 * @param partition for people: {@code 2026-03, 4 of 16}; empty for none
 * @param sha256 of the whole file, in hexadecimal digits
 * @param ranges of each tracked column, by its name, what is known of its values
 */
public record TableFile(
    long number,
    String name,
    long rows,
    long maskedRows,
    long bytes,
    long oldestBirth,
    long newestBirth,
    long layout,
    String partition,
    String sha256,
    Map<String, ValueRange> ranges) {

  /** Rows that count. */
  public long liveRows() {
    return rows - maskedRows;
  }
}
