package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** A row does not fit the table, and was not added. */
public final class RejectedRowException extends InvalidInputException {
  private static final long serialVersionUID = 1L;

  private final long row;
  private final String what;
  private final String after;

  /**
   * A row.
   *
   * @param row counts the rows that were given, from 1
   * @param reason why it does not fit, without a point at its end
   */
  public RejectedRowException(long row, String reason, @Nullable Throwable cause) {
    this(row, null, ": ", reason, cause);
  }

  /**
   * A value of a row.
   *
   * @param column the column's name
   * @param type the column's type
   */
  public RejectedRowException(
      long row, String column, Object type, String reason, @Nullable Throwable cause) {
    this(row, column, ", ", "column %s (%s): %s".formatted(column, type, reason), cause);
  }

  /** A value of a row of the source of a merge. */
  public static RejectedRowException ofSource(
      long row, String column, Object type, String reason, @Nullable Throwable cause) {
    String what = "column %s (%s): %s".formatted(column, type, reason);
    return new RejectedRowException(row, column, " of the source, ", what, cause);
  }

  /** A row of which something is said as a whole, such as {@code has 3 values for 2 columns}. */
  public static RejectedRowException that(long row, String says) {
    return new RejectedRowException(row, null, " ", says, null);
  }

  private RejectedRowException(
      long row, @Nullable String column, String after, String what, @Nullable Throwable cause) {
    super("Row %d%s%s. Nothing was changed.".formatted(row, after, what), column, cause);
    this.after = after;
    this.row = row;
    this.what = what;
  }

  /** Which row, counted from 1. */
  public long row() {
    return row;
  }

  /** Why it does not fit: column, type, value and reason, without the row's number. */
  public String what() {
    return what;
  }

  /** The same of a row that is counted otherwise. */
  public RejectedRowException as(long number) {
    return new RejectedRowException(number, columnName().orElse(null), after, what, this);
  }
}
