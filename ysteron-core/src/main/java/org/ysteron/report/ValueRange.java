package org.ysteron.report;

import java.util.Optional;

/**
 * The range of a column's values in a data file.
 *
 * @param min a lower bound; empty if unknown, or if all values are null
 * @param max an upper bound; also empty if the largest value is too long to be kept
 * @param nulls the number of nulls; empty if unknown
 * @param text the range for people: {@code [1.5, 7.0] 2 nulls}
 */
public record ValueRange(
    Optional<Object> min, Optional<Object> max, Optional<Long> nulls, String text) {
  @Override
  public String toString() {
    return text;
  }
}
