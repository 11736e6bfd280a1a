package org.ysteron.option;

import java.util.Locale;

/** Which writes test that primary keys are unique. */
public enum KeyTesting {
  /** None: the key is declared only. */
  DECLARED,
  /** Each write tests its own rows. */
  WITHIN_WRITES,
  /** Each write tests its rows against the whole table. */
  EXACT;

  /** The value of the table setting, such as {@code within_writes}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
