package org.ysteron.option;

import java.util.Locale;

/** What happens to rows that do not have the table's columns. */
public enum Drift {
  /** Unknown columns, and missing ones that need a value, are an error. */
  STRICT,
  /** Like strict, but a null where NOT NULL has a default counts as missing and gets it. */
  LENIENT,
  /**
   * Unknown columns are added and types widened, in the commit that brings the rows, by what all of
   * them have; what no widening takes exactly is an error.
   */
  GROW,
  /** What is in unknown columns goes as JSON into the table's leftovers column. */
  SET_ASIDE,
  /**
   * Like grow, but what no widening takes exactly, and columns beyond the limit of new ones, go
   * into the leftovers column.
   */
  GROW_OR_SET_ASIDE;

  /** The value of the table setting that means it: {@code set_aside}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** Whether the table takes more columns and wider types. */
  public boolean grows() {
    return this == GROW || this == GROW_OR_SET_ASIDE;
  }

  /** Whether there is a place for what the table's columns do not take. */
  public boolean setsAside() {
    return this == SET_ASIDE || this == GROW_OR_SET_ASIDE;
  }

  static Drift of(String word) {
    return valueOf(word.toUpperCase(Locale.ROOT));
  }
}
