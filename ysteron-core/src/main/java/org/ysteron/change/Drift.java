package org.ysteron.change;

import java.util.Locale;

/** What happens to rows that do not have the table's columns. */
public enum Drift {
  /** Unknown columns, and missing ones that need a value, are an error. */
  STRICT,
  /** Like strict, but a null where NOT NULL has a default counts as missing and gets it. */
  LENIENT,
  /** Unknown columns are added and types widened, in the commit that brings the rows. */
  GROW,
  /** What is in unknown columns goes as JSON into the table's leftovers column. */
  SET_ASIDE;

  /** The value of the table setting that means it: {@code set_aside}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  static Drift of(String word) {
    return valueOf(word.toUpperCase(Locale.ROOT));
  }
}
