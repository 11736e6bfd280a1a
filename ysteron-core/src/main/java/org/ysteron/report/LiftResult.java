package org.ysteron.report;

import java.util.List;
import java.util.Map;

/**
 * The result of lifting leftovers into columns.
 *
 * @param write the rows and files, and the commit
 * @param misfits the values that did not fit, by key; they stay in the leftovers
 */
public record LiftResult(WriteResult write, Map<String, Misfits> misfits) {

  /**
   * Values that did not fit the column.
   *
   * @param count how many
   * @param samples some of them
   */
  public record Misfits(long count, List<String> samples) {}
}
