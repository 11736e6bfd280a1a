package org.ysteron.report;

import java.util.Optional;

/**
 * What is known of a column's values in a data file.
 *
 * @param min none is less; empty when nothing is known, or every value is null
 * @param max none is greater; empty also when the largest is too long to be kept
 * @param nulls how many are null; empty when that is not known
 * @param text all of it, for people: {@code [1.5, 7.0] 2 nulls}
 */
public record ValueRange(
    Optional<Object> min, Optional<Object> max, Optional<Long> nulls, String text) {
  @Override
  public String toString() {
    return text;
  }
}
