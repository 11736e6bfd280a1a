package org.ysteron.internal.rows;

import java.util.Arrays;
import java.util.Objects;
import org.ysteron.data.Batch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/**
 * Compares values of two batches of the same columns. NaN equals NaN, -0.0 does not equal 0.0, and
 * null equals null.
 */
public final class Differing {
  private Differing() {}

  /**
   * The rows that differ in any column.
   *
   * @return bit {@code i & 63} of word {@code i >> 6} for row {@code i}
   */
  public static long[] rows(Batch one, Batch other) {
    long[] rows = new long[(one.size() + 63) >> 6];
    for (int column = 0; column < one.vectors().size(); column++) {
      Vector a = one.vectors().get(column);
      Vector b = other.vectors().get(column);
      boolean isPlain = a.nulls() == null && b.nulls() == null;
      if (isPlain && a instanceof Vector.OfLong x && b instanceof Vector.OfLong y) {
        mark(x.values(), y.values(), one.size(), rows);
      } else if (isPlain && a instanceof Vector.OfInt x && b instanceof Vector.OfInt y) {
        mark(x.values(), y.values(), one.size(), rows);
      } else {
        mark(a, b, one.size(), rows);
      }
    }
    return rows;
  }

  private static void mark(long[] one, long[] other, int count, long[] rows) {
    for (int i = 0; i < count; i++) {
      if (one[i] != other[i]) {
        rows[i >> 6] |= 1L << i;
      }
    }
  }

  private static void mark(int[] one, int[] other, int count, long[] rows) {
    for (int i = 0; i < count; i++) {
      if (one[i] != other[i]) {
        rows[i >> 6] |= 1L << i;
      }
    }
  }

  private static void mark(Vector one, Vector other, int count, long[] rows) {
    for (int i = 0; i < count; i++) {
      if (differ(one, i, other, i)) {
        rows[i >> 6] |= 1L << i;
      }
    }
  }

  /** Whether two values differ. */
  public static boolean differ(Vector a, int i, Vector b, int j) {
    boolean isNull = a.isNull(i);
    if (isNull || b.isNull(j)) {
      return isNull != b.isNull(j);
    }
    if (a instanceof Vector.OfLong x && b instanceof Vector.OfLong y) {
      return x.values()[i] != y.values()[j];
    }
    if (a instanceof Vector.OfInt x && b instanceof Vector.OfInt y) {
      return x.values()[i] != y.values()[j];
    }
    if (a instanceof Vector.OfDouble x && b instanceof Vector.OfDouble y) {
      return Double.compare(x.values()[i], y.values()[j]) != 0;
    }
    if (a instanceof Vector.OfFloat x && b instanceof Vector.OfFloat y) {
      return Float.compare(x.values()[i], y.values()[j]) != 0;
    }
    boolean isNumber = a.type() instanceof Type.Decimal; // whose bytes may be longer than needed
    if (a instanceof Vector.OfBytes x && b instanceof Vector.OfBytes y && !isNumber) {
      return !Arrays.equals(
          x.data(),
          x.starts()[i],
          x.starts()[i] + x.lengths()[i],
          y.data(),
          y.starts()[j],
          y.starts()[j] + y.lengths()[j]);
    }
    if (a instanceof Vector.OfStruct x && b instanceof Vector.OfStruct y) {
      for (int f = 0; f < x.fields().size(); f++) {
        if (differ(x.fields().get(f), i, y.fields().get(f), j)) {
          return true;
        }
      }
      return false;
    }
    if (a instanceof Vector.OfList x && b instanceof Vector.OfList y) {
      return differ(x.elements(), x.offsets(), i, y.elements(), y.offsets(), j);
    }
    if (a instanceof Vector.OfMap x && b instanceof Vector.OfMap y) {
      boolean inOrder =
          !differ(x.keys(), x.offsets(), i, y.keys(), y.offsets(), j)
              && !differ(x.mapped(), x.offsets(), i, y.mapped(), y.offsets(), j);
      return !inOrder && !Objects.equals(a.get(i), b.get(j));
    }
    return !Objects.equals(a.get(i), b.get(j));
  }

  /** Whether the elements of two lists differ. */
  private static boolean differ(Vector a, int[] from, int i, Vector b, int[] of, int j) {
    int count = from[i + 1] - from[i];
    if (count != of[j + 1] - of[j]) {
      return true;
    }
    for (int e = 0; e < count; e++) {
      if (differ(a, from[i] + e, b, of[j] + e)) {
        return true;
      }
    }
    return false;
  }
}
