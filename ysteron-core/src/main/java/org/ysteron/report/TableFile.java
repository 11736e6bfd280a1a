package org.ysteron.report;

import java.util.Map;

/**
 * A data file of a table.
 *
 * @param number its number in the table, which never changes
 * @param name of the object in the store
 * @param rows rows, including masked ones
 * @param maskedRows deleted rows
 * @param bytes its size
 * @param oldestBirth the ordinal of the first commit that inserted or last changed one of its rows
 * @param newestBirth the ordinal of the last such commit
 * @param layout the version of the layout that it was written with
 * @param partition for people: {@code 2026-03, 4 of 16}; empty for none
 * @param sha256 of the whole file, in hexadecimal digits
 * @param ranges the value ranges of tracked columns, by name
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

  /** Rows that are not masked. */
  public long liveRows() {
    return rows - maskedRows;
  }
}
