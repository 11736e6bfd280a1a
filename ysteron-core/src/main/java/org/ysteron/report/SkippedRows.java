package org.ysteron.report;

import java.util.ArrayList;
import java.util.List;

/**
 * Rows that a commit skipped because the table rejected them.
 *
 * @param rows how many
 * @param reasons the reasons, each with the keys of some rows; the first ten
 */
public record SkippedRows(long rows, List<String> reasons) {
  public static final int MOST_REASONS = 10;

  /** No row was skipped. */
  public static final SkippedRows NONE = new SkippedRows(0, List.of());

  public SkippedRows {
    reasons = List.copyOf(reasons);
  }

  public SkippedRows and(long more, String reason) {
    return and(new SkippedRows(more, List.of(reason)));
  }

  /** The sum of both. */
  public SkippedRows and(SkippedRows others) {
    List<String> all = new ArrayList<>(reasons);
    all.addAll(others.reasons);
    return new SkippedRows(rows + others.rows, all.subList(0, Math.min(all.size(), MOST_REASONS)));
  }
}
