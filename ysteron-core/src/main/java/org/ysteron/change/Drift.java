package org.ysteron.change;

/** What happens to rows that do not have the table's columns. */
public enum Drift {
  /** Unknown columns, and missing ones that need a value, are an error. */
  STRICT(0),
  /** Like strict, but a null where NOT NULL has a default counts as missing and gets it. */
  LENIENT(1),
  /** Unknown columns are added and types widened, in the commit that brings the rows. */
  GROW(2),
  /** What is in unknown columns goes as JSON into the table's leftovers column. */
  SET_ASIDE(3);

  private final long code;

  Drift(long code) {
    this.code = code;
  }

  /** The value of the table property that means it. */
  public long code() {
    return code;
  }

  static Drift ofCode(long code) {
    for (Drift drift : values()) {
      if (drift.code == code) {
        return drift;
      }
    }
    throw new IllegalArgumentException("no drift has the code " + code);
  }
}
