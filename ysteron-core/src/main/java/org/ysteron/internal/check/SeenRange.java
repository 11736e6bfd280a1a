package org.ysteron.internal.check;

import java.util.Arrays;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;

/** Which values of a column were seen. For one thread. */
final class SeenRange {
  private long nulls;
  private long values;
  private long min = Long.MAX_VALUE;
  private long max = Long.MIN_VALUE;
  private byte[] least;
  private byte[] greatest;

  void add(Vector vector) {
    nulls += vector.nullCount();
    if (vector instanceof Vector.OfBytes bytes) {
      add(bytes);
    } else if (vector instanceof Vector.OfLong longs && vector.nulls() == null) {
      add(longs.values(), longs.size());
    } else if (vector instanceof Vector.OfInt ints && vector.nulls() == null) {
      add(ints.values(), ints.size());
    } else {
      addEach(vector);
    }
  }

  private void add(long[] found, int size) {
    values += size;
    for (int row = 0; row < size; row++) {
      min = Math.min(min, found[row]);
      max = Math.max(max, found[row]);
    }
  }

  private void add(int[] found, int size) {
    int low = Integer.MAX_VALUE;
    int high = Integer.MIN_VALUE;
    for (int row = 0; row < size; row++) {
      low = Math.min(low, found[row]);
      high = Math.max(high, found[row]);
    }
    if (size > 0) {
      values += size;
      min = Math.min(min, low);
      max = Math.max(max, high);
    }
  }

  private void addEach(Vector vector) {
    for (int row = 0; row < vector.size(); row++) {
      if (!vector.isNull(row)) {
        long value = Ordered.number(vector, row);
        min = Math.min(min, value);
        max = Math.max(max, value);
        values++;
      }
    }
  }

  private void add(Vector.OfBytes bytes) {
    for (int row = 0; row < bytes.size(); row++) {
      if (bytes.isNull(row)) {
        continue;
      }
      int from = bytes.starts()[row];
      int to = from + bytes.lengths()[row];
      values++;
      if (least == null || compare(bytes.data(), from, to, least) < 0) {
        least = Arrays.copyOfRange(bytes.data(), from, to);
      }
      if (greatest == null || compare(bytes.data(), from, to, greatest) > 0) {
        greatest = Arrays.copyOfRange(bytes.data(), from, to);
      }
    }
  }

  private static int compare(byte[] data, int from, int to, byte[] other) {
    return Arrays.compareUnsigned(data, from, to, other, 0, other.length);
  }

  /** Whether a range that is said of all rows of the file is wide enough for those seen here. */
  boolean isWithin(ColumnRange told) {
    return switch (told.state()) {
      case UNKNOWN, ABSENT -> true;
      case ALL_NULL -> values == 0 || told.someAbsent();
      case BOUNDED -> told.someAbsent() || isWithinBounds(told);
    };
  }

  private boolean isWithinBounds(ColumnRange told) {
    if (told.nulls() >= 0 && nulls > told.nulls()) {
      return false;
    }
    if (values == 0) {
      return true;
    }
    return least == null
        ? told.min() <= min && max <= told.max()
        : Ordered.compare(told.minBytes(), least) <= 0
            && (told.maxBytes() == null || Ordered.compare(greatest, told.maxBytes()) <= 0);
  }

  /** Whether a null was seen. */
  boolean hasNulls() {
    return nulls > 0;
  }
}
