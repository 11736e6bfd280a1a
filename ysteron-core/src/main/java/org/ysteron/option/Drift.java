package org.ysteron.option;

import java.util.Locale;

/** What happens to incoming rows whose columns differ from the table's. */
public enum Drift {
  /** Unknown columns, and missing columns that need a value, are an error. */
  STRICT,
  /** Like strict, but null in a NOT NULL column with a default becomes the default. */
  LENIENT,
  /**
   * Unknown columns are added and types are widened in the commit of the rows, so that all rows
   * fit. A value that no wider type holds exactly is an error.
   */
  GROW,
  /** Values of unknown columns are stored as JSON in the leftovers column. */
  SET_ASIDE,
  /**
   * Like grow, but values that no wider type holds exactly, and columns above the limit of new
   * columns, are stored in the leftovers column.
   */
  GROW_OR_SET_ASIDE;

  /** The value of the table setting, such as {@code set_aside}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** Whether columns are added and types widened. */
  public boolean grows() {
    return this == GROW || this == GROW_OR_SET_ASIDE;
  }

  /** Whether values can go to the leftovers column. */
  public boolean setsAside() {
    return this == SET_ASIDE || this == GROW_OR_SET_ASIDE;
  }

  static Drift of(String word) {
    return valueOf(word.toUpperCase(Locale.ROOT));
  }
}
