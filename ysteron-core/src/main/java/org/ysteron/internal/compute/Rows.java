package org.ysteron.internal.compute;

import java.util.Optional;
import org.ysteron.data.Batch;

/**
 * Rows that are computed on: a batch, the rows of a merge's source beside it, and which rows count.
 *
 * @param selected the positions of rows that count, ascending; more than {@code count} long
 * @param count how many count
 */
@SuppressWarnings("ArrayRecordComponent") // never compared
public record Rows(
    Optional<Batch> table, Optional<Batch> source, int size, int[] selected, int count) {
  private static volatile int[] all = upTo(1 << 13);

  /** All rows. */
  public static Rows of(Batch table) {
    return new Rows(
        Optional.of(table), Optional.empty(), table.size(), all(table.size()), table.size());
  }

  /** All rows. */
  public static Rows of(Optional<Batch> table, Optional<Batch> source, int size) {
    return new Rows(table, source, size, all(size), size);
  }

  /** The same rows, of which only some count. */
  public Rows only(int[] rows, int number) {
    return new Rows(table, source, size, rows, number);
  }

  /** The numbers from 0 on, at least so many. */
  static int[] all(int size) {
    int[] known = all;
    if (known.length < size) {
      known = upTo(Math.max(size, 2 * known.length));
      all = known;
    }
    return known;
  }

  private static int[] upTo(int size) {
    int[] numbers = new int[size];
    for (int i = 0; i < size; i++) {
      numbers[i] = i;
    }
    return numbers;
  }
}
