package org.ysteron.report;

import java.util.ArrayList;
import java.util.List;

/**
 * Rows that a commit skipped because the table rejected them.
 *
 * @param rows how many
 * @param reasons why, each with some of the rows by their keys; the first ten
 */
public record SkippedRows(long rows, List<String> reasons) {
  public static final int MOST_REASONS = 10;

  /** All rows are there. */
  public static final SkippedRows NONE = new SkippedRows(0, List.of());

  public SkippedRows {
    reasons = List.copyOf(reasons);
  }

  public SkippedRows and(long more, String reason) {
    return and(new SkippedRows(more, List.of(reason)));
  }

  /** These and others. */
  public SkippedRows and(SkippedRows others) {
    List<String> all = new ArrayList<>(reasons);
    all.addAll(others.reasons);
    return new SkippedRows(rows + others.rows, all.subList(0, Math.min(all.size(), MOST_REASONS)));
  }
}
