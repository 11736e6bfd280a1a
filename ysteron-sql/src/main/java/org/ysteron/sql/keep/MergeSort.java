package org.ysteron.sql.keep;

import java.util.List;
import org.ysteron.internal.work.Workers;

/**
 * Sorts rows by merging, large parts by threads of their own; equal ones stay as they are (Knuth,
 * The Art of Computer Programming 3, 5.2.4).
 */
final class MergeSort {
  private static final int SMALL = 8;
  private static final int MANY = 1 << 14;

  private final long[] begins;
  private final Ordering.Comparing equal;
  private final Running running;

  /**
   * Prepares.
   *
   * @param begins words that are in the order of the rows, as far as they tell it
   * @param equal compares rows that have the same word
   */
  MergeSort(long[] begins, Ordering.Comparing equal, Running running) {
    this.begins = begins;
    this.equal = equal;
    this.running = running;
  }

  void sort(int[] rows) {
    sort(rows.clone(), rows, 0, rows.length, running.threads());
  }

  private int compare(int one, int other) {
    int order = Long.compare(begins[one], begins[other]);
    return order != 0 ? order : equal.compare(one, other);
  }

  /** Sorts {@code to} from {@code start} to {@code end}; {@code from} has the same rows there. */
  private void sort(int[] from, int[] to, int start, int end, int threads) {
    if (end - start < SMALL) {
      insert(to, start, end);
      return;
    }
    int middle = (start + end) >>> 1;
    if (end - start > MANY) {
      running.check();
    }
    if (threads > 1 && running.shares(end - start)) {
      Workers.runEach(
          List.of(
              () -> sort(to, from, start, middle, threads / 2),
              () -> sort(to, from, middle, end, threads - threads / 2)));
    } else {
      sort(to, from, start, middle, 1);
      sort(to, from, middle, end, 1);
    }
    merge(from, to, start, middle, end);
  }

  private void insert(int[] to, int start, int end) {
    for (int i = start + 1; i < end; i++) {
      int row = to[i];
      int at = i;
      while (at > start && compare(to[at - 1], row) > 0) {
        to[at] = to[at - 1];
        at--;
      }
      to[at] = row;
    }
  }

  private void merge(int[] from, int[] to, int start, int middle, int end) {
    if (compare(from[middle - 1], from[middle]) <= 0) {
      System.arraycopy(from, start, to, start, end - start);
      return;
    }
    int left = start;
    int right = middle;
    for (int i = start; i < end; i++) {
      boolean takesLeft = right >= end || (left < middle && compare(from[left], from[right]) <= 0);
      to[i] = takesLeft ? from[left++] : from[right++];
    }
  }
}
