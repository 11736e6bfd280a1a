package org.ysteron.option;

import java.util.Locale;

/** Who sees to it that no two rows of a table have one primary key. */
public enum KeyTesting {
  /** Nobody: the key is declared only. */
  DECLARED,
  /** Each write, among its own rows. */
  WITHIN_WRITES,
  /** Every write, in the whole table. */
  EXACT;

  /** The value of the table setting that means it: {@code within_writes}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
