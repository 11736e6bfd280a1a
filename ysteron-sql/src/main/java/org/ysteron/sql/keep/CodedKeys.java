package org.ysteron.sql.keep;

import java.util.Arrays;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;

/**
 * The numbers of keys of texts by the codes of their dictionaries: each combination of codes is
 * looked up once for each dictionary. For one thread.
 */
final class CodedKeys {
  private static final int MOST = 1 << 14;

  private Vector.Words[] words = {};
  private int[] known = {};

  /** Finds the number of the key of one row. */
  interface Lookup {
    int find(int row);
  }

  /** Whether keys can be found by their codes. */
  static boolean fits(Held[] parts) {
    long combinations = 1;
    for (Held part : parts) {
      if (part.words() == null || part.nulls() != null) {
        return false;
      }
      combinations *= Math.max(1, part.words().count());
      if (combinations > MOST) {
        return false;
      }
    }
    return true;
  }

  /**
   * Finds the numbers of keys.
   *
   * @param at the rows
   * @param lookup finds those that were not found before; -1 is not remembered
   */
  void find(Held[] parts, int[] at, int count, int[] numbers, Lookup lookup) {
    begin(parts);
    int[] first = parts[0].codes();
    if (parts.length == 1) {
      for (int i = 0; i < count; i++) {
        int number = known[first[at[i]]];
        numbers[i] = number >= 0 ? number : learn(first[at[i]], at[i], lookup);
      }
      return;
    }
    if (parts.length == 2) {
      int[] second = parts[1].codes();
      int wide = words[1].count();
      for (int i = 0; i < count; i++) {
        int code = first[at[i]] * wide + second[at[i]];
        int number = known[code];
        numbers[i] = number >= 0 ? number : learn(code, at[i], lookup);
      }
      return;
    }
    for (int i = 0; i < count; i++) {
      int code = 0;
      for (int p = 0; p < words.length; p++) {
        code = code * words[p].count() + parts[p].codes()[at[i]];
      }
      int number = known[code];
      numbers[i] = number >= 0 ? number : learn(code, at[i], lookup);
    }
  }

  private int learn(int code, int row, Lookup lookup) {
    int number = lookup.find(row);
    known[code] = number;
    return number;
  }

  private void begin(Held[] parts) {
    boolean same = words.length == parts.length;
    int combinations = 1;
    for (int p = 0; p < parts.length; p++) {
      same = same && words[p] == parts[p].words();
      combinations *= Math.max(1, parts[p].words().count());
    }
    if (!same) {
      words = Arrays.stream(parts).map(Held::words).toArray(Vector.Words[]::new);
      known = known.length >= combinations ? known : new int[combinations];
      Arrays.fill(known, 0, combinations, -1);
    }
  }
}
