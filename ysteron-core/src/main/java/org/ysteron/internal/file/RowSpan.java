package org.ysteron.internal.file;

import java.util.ArrayList;
import java.util.List;

/**
 * Rows that follow one another.
 *
 * @param from the first
 * @param to the one behind the last
 */
public record RowSpan(long from, long to) {
  /** How many rows these are. */
  public long rows() {
    return to - from;
  }

  /** The rows of some spans that are among these, too. */
  public List<RowSpan> common(List<RowSpan> spans) {
    return common(spans, 0);
  }

  /** The rows of some spans, all told from a row on, that are among these, too, told alike. */
  List<RowSpan> common(List<RowSpan> spans, long start) {
    List<RowSpan> left = new ArrayList<>();
    for (RowSpan span : spans) {
      long first = Math.max(span.from, from - start);
      long end = Math.min(span.to, to - start);
      if (first < end) {
        left.add(new RowSpan(first, end));
      }
    }
    return left;
  }
}
