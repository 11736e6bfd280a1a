package org.ysteron.report;

import java.util.ArrayList;
import java.util.List;

/**
 * Rows that were left out of a commit because they did not fit the table.
 *
 * @param rows how many
 * @param reasons why, each with some of the rows by their keys; the first ten
 */
public record LeftOut(long rows, List<String> reasons) {
  public static final int MOST_REASONS = 10;

  /** All rows are there. */
  public static final LeftOut NONE = new LeftOut(0, List.of());

  public LeftOut {
    reasons = List.copyOf(reasons);
  }

  public LeftOut and(long more, String reason) {
    return and(new LeftOut(more, List.of(reason)));
  }

  /** These and others. */
  public LeftOut and(LeftOut others) {
    List<String> all = new ArrayList<>(reasons);
    all.addAll(others.reasons);
    return new LeftOut(rows + others.rows, all.subList(0, Math.min(all.size(), MOST_REASONS)));
  }
}
