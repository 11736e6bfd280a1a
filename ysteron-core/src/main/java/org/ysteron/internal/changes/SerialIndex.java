package org.ysteron.internal.changes;

import java.util.Arrays;
import java.util.Comparator;
import java.util.Optional;
import java.util.PrimitiveIterator;
import java.util.stream.IntStream;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;

/**
 * Where in a file the row of a serial is, in memory: runs of rows whose serials count up with their
 * positions. Immutable.
 */
public final class SerialIndex {
  private static final int MOST_RUNS = 1 << 20;

  private final long[] serials;
  private final int[] positions;
  private final int[] lengths;

  private SerialIndex(long[] serials, int[] positions, int[] lengths) {
    this.serials = serials;
    this.positions = positions;
    this.lengths = lengths;
  }

  /** The positions of the rows of some serials. */
  public RoaringBitmap positions(Roaring64Bitmap wanted) {
    RoaringBitmap found = new RoaringBitmap();
    PrimitiveIterator.OfLong each = wanted.stream().iterator();
    while (each.hasNext()) {
      long serial = each.nextLong();
      int at = Arrays.binarySearch(serials, serial);
      int run = at >= 0 ? at : -at - 2;
      if (run >= 0 && serial - serials[run] < lengths[run]) {
        found.add(positions[run] + (int) (serial - serials[run]));
      }
    }
    return found;
  }

  /** Takes rows in the order of their positions. */
  static final class Builder {
    private long[] serials = new long[16];
    private int[] positions = new int[16];
    private int[] lengths = new int[16];
    private int runs;
    private boolean isTooLarge;

    void add(long serial, int position) {
      int last = runs - 1;
      if (last >= 0
          && serial == serials[last] + lengths[last]
          && position == positions[last] + lengths[last]) {
        lengths[last]++;
        return;
      }
      isTooLarge |= runs == MOST_RUNS;
      if (isTooLarge) {
        return;
      }
      if (runs == serials.length) {
        serials = Arrays.copyOf(serials, runs * 2);
        positions = Arrays.copyOf(positions, runs * 2);
        lengths = Arrays.copyOf(lengths, runs * 2);
      }
      serials[runs] = serial;
      positions[runs] = position;
      lengths[runs++] = 1;
    }

    /** The index; empty when it would be too large. */
    Optional<SerialIndex> build() {
      if (isTooLarge) {
        return Optional.empty();
      }
      int[] order =
          IntStream.range(0, runs)
              .boxed()
              .sorted(Comparator.comparingLong(run -> serials[run]))
              .mapToInt(run -> run)
              .toArray();
      return Optional.of(
          new SerialIndex(
              Arrays.stream(order).mapToLong(run -> serials[run]).toArray(),
              Arrays.stream(order).map(run -> positions[run]).toArray(),
              Arrays.stream(order).map(run -> lengths[run]).toArray()));
    }
  }
}
