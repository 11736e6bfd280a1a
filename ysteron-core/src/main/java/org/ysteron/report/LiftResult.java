package org.ysteron.report;

import java.util.List;
import java.util.Map;

/**
 * What lifting leftovers into columns did.
 *
 * @param write the rows and files, and the commit
 * @param misfits by key, values that did not fit; they stay left over
 */
public record LiftResult(WriteResult write, Map<String, Misfits> misfits) {

  /**
   * Values that do not fit a column.
   *
   * @param count how many
   * @param samples some of them
   */
  public record Misfits(long count, List<String> samples) {}
}
