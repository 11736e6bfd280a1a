package org.ysteron.internal.changes;

import java.util.Arrays;
import java.util.Comparator;
import java.util.stream.IntStream;

/**
 * Rows by serial, in memory: runs of rows of one file and one birth whose serials count up with
 * their positions. For one thread.
 */
final class SerialRuns {
  /** About the bytes of a run, its share of sorting included. */
  static final int BYTES = 40;

  private final int most;
  private long[] serials = new long[16];
  private long[] births = new long[16];
  private int[] files = new int[16];
  private int[] positions = new int[16];
  private int[] lengths = new int[16];
  private int size;
  private boolean isFull;

  /** {@code most}: so many runs at most. */
  SerialRuns(int most) {
    this.most = most;
  }

  int size() {
    return size;
  }

  /** Whether a row did not fit any more. */
  boolean isFull() {
    return isFull;
  }

  long serial(int run) {
    return serials[run];
  }

  long birth(int run) {
    return births[run];
  }

  int file(int run) {
    return files[run];
  }

  int position(int run) {
    return positions[run];
  }

  int length(int run) {
    return lengths[run];
  }

  /** Adds some rows with consecutive serials and positions. */
  void add(long serial, long birth, int file, int position, int length) {
    int last = size - 1;
    if (last >= 0
        && serial == serials[last] + lengths[last]
        && position == positions[last] + lengths[last]
        && file == files[last]
        && birth == births[last]) {
      lengths[last] += length;
      return;
    }
    isFull |= size == most;
    if (isFull) {
      return;
    }
    if (size == serials.length) {
      int larger = Math.min(most, size * 2);
      serials = Arrays.copyOf(serials, larger);
      births = Arrays.copyOf(births, larger);
      files = Arrays.copyOf(files, larger);
      positions = Arrays.copyOf(positions, larger);
      lengths = Arrays.copyOf(lengths, larger);
    }
    serials[size] = serial;
    births[size] = birth;
    files[size] = file;
    positions[size] = position;
    lengths[size++] = length;
  }

  /** Brings the runs into the order of their serials. */
  void sort() {
    int[] order = order();
    serials = pick(serials, order);
    births = pick(births, order);
    files = pick(files, order);
    positions = pick(positions, order);
    lengths = pick(lengths, order);
  }

  private int[] order() {
    long least = Arrays.stream(serials, 0, size).min().orElse(0);
    long greatest = Arrays.stream(serials, 0, size).max().orElse(0);
    int bits = 32 - Integer.numberOfLeadingZeros(size);
    long spread = greatest - least;
    if (spread < 0 || spread >= 1L << (62 - bits)) {
      return IntStream.range(0, size)
          .boxed()
          .sorted(Comparator.comparingLong(run -> serials[run]))
          .mapToInt(run -> run)
          .toArray();
    }
    long[] packed = new long[size];
    for (int run = 0; run < size; run++) {
      packed[run] = (serials[run] - least) << bits | run;
    }
    Arrays.sort(packed);
    int[] order = new int[size];
    for (int i = 0; i < size; i++) {
      order[i] = (int) (packed[i] & ((1L << bits) - 1));
    }
    return order;
  }

  private static long[] pick(long[] from, int[] order) {
    long[] picked = new long[order.length];
    for (int i = 0; i < order.length; i++) {
      picked[i] = from[order[i]];
    }
    return picked;
  }

  private static int[] pick(int[] from, int[] order) {
    int[] picked = new int[order.length];
    for (int i = 0; i < order.length; i++) {
      picked[i] = from[order[i]];
    }
    return picked;
  }

  /** The run with a serial, when sorted; -1 for none. */
  int find(long serial) {
    int at = Arrays.binarySearch(serials, 0, size, serial);
    int run = at >= 0 ? at : -at - 2;
    return run >= 0 && serial - serials[run] < lengths[run] ? run : -1;
  }
}
