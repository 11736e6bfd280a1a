package org.ysteron.internal.text;

import java.util.Locale;

/** Counts of things in messages. */
public final class Counted {
  private Counted() {}

  /** A count with separators and the thing's name: {@code 1 row}, {@code 19,140 rows}. */
  public static String of(long count, String singular) {
    return String.format(Locale.ROOT, "%,d %s%s", count, singular, count == 1 ? "" : "s");
  }
}
