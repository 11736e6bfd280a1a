package org.ysteron.internal.rows;

import org.ysteron.data.Vector;

/** Selections of rows: ascending positions in a batch, at the front of an array. */
public final class Selections {
  /** A dictionary of more words for each row is not worth testing. */
  private static final int MOST_WORDS = 16;

  private Selections() {}

  /**
   * Keeps the rows whose bits are set, or those whose bits are not.
   *
   * @param bits null for none
   * @param to gets the rows that are kept; may be the array of rows itself
   * @return how many are kept
   */
  public static int keep(int[] rows, int count, long[] bits, boolean wanted, int[] to) {
    if (bits == null) {
      if (!wanted && to != rows) {
        System.arraycopy(rows, 0, to, 0, count);
      }
      return wanted ? 0 : count;
    }
    int kept = 0;
    long bit = wanted ? 1 : 0;
    for (int j = 0; j < count; j++) {
      int i = rows[j];
      to[kept] = i;
      kept += ((bits[i >> 6] >>> i) & 1) == bit ? 1 : 0;
    }
    return kept;
  }

  /** Sets the bits of rows. */
  public static void mark(int[] rows, int count, long[] bits) {
    for (int j = 0; j < count; j++) {
      bits[rows[j] >> 6] |= 1L << rows[j];
    }
  }

  /** Whether testing each word of a dictionary once is less work than testing some rows. */
  public static boolean byWords(Vector.Words words, int rows) {
    return words != null && words.count() <= (long) Math.max(rows, 1) * MOST_WORDS;
  }

  /** Keeps the rows whose words pass, or those whose words do not, in place. */
  public static int keep(int[] rows, int count, boolean[] passes, int[] codes, boolean wanted) {
    int kept = 0;
    for (int j = 0; j < count; j++) {
      int i = rows[j];
      rows[kept] = i;
      kept += passes[codes[i]] == wanted ? 1 : 0;
    }
    return kept;
  }
}
