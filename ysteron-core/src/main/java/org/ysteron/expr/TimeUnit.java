package org.ysteron.expr;

/** Units of dates and times, by the ISO 8601 calendar. */
public enum TimeUnit {
  YEAR,
  QUARTER,
  MONTH,
  /** Weeks begin on Monday. */
  WEEK,
  DAY,
  HOUR,
  MINUTE,
  SECOND
}
