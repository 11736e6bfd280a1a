package org.ysteron.internal.compute;

import java.util.Arrays;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/** Computed values as vectors, which share nothing with them. */
final class Vectors {
  private static final int WIDE_BYTES = 16;

  private Vectors() {}

  /** The values as a vector of a type that shares nothing with this. */
  static Vector of(Held held, Type type) {
    int size = held.size;
    long[] longs = held.longs;
    double[] doubles = held.doubles;
    long[] mask = nulls(held);
    return switch (type.physical()) {
      case BOOLEAN -> {
        boolean[] values = new boolean[size];
        for (int i = 0; i < size; i++) {
          values[i] = longs[i] != 0;
        }
        yield new Vector.OfBoolean(type, size, values, mask);
      }
      case INT -> {
        int[] values = new int[size];
        for (int i = 0; i < size; i++) {
          values[i] = (int) longs[i];
        }
        yield new Vector.OfInt(type, size, values, mask);
      }
      case LONG -> new Vector.OfLong(type, size, Arrays.copyOf(longs, size), mask);
      case FLOAT -> {
        float[] values = new float[size];
        for (int i = 0; i < size; i++) {
          values[i] = (float) doubles[i];
        }
        yield new Vector.OfFloat(type, size, values, mask);
      }
      case DOUBLE -> new Vector.OfDouble(type, size, Arrays.copyOf(doubles, size), mask);
      case BYTES -> type instanceof Type.Decimal ? wide(held, type, mask) : bytes(held, type, mask);
      case NESTED -> held.vector;
    };
  }

  /** The bits of the nulls, none behind the last row; null when there are none. */
  private static long[] nulls(Held held) {
    if (held.nulls == null) {
      return null;
    }
    long[] mask = Arrays.copyOf(held.nulls, (held.size + 63) >> 6);
    if ((held.size & 63) != 0) {
      mask[mask.length - 1] &= (1L << (held.size & 63)) - 1;
    }
    long any = 0;
    for (long word : mask) {
      any |= word;
    }
    return any == 0 ? null : mask;
  }

  private static Vector bytes(Held held, Type type, long[] mask) {
    int total = 0;
    for (int i = 0; i < held.size; i++) {
      total = Math.addExact(total, held.isNull(i) ? 0 : held.lengths[i]);
    }
    byte[] copy = new byte[total];
    int[] at = new int[held.size];
    int[] count = new int[held.size];
    int next = 0;
    for (int i = 0; i < held.size; i++) {
      at[i] = next;
      if (!held.isNull(i)) {
        System.arraycopy(held.data, held.starts[i], copy, next, held.lengths[i]);
        count[i] = held.lengths[i];
        next += held.lengths[i];
      }
    }
    return new Vector.OfBytes(type, held.size, copy, at, count, mask);
  }

  private static Vector wide(Held held, Type type, long[] mask) {
    byte[] bytes = new byte[WIDE_BYTES * held.size];
    int[] at = new int[held.size];
    int[] count = new int[held.size];
    for (int i = 0; i < held.size; i++) {
      at[i] = WIDE_BYTES * i;
      count[i] = WIDE_BYTES;
      long low = held.longs[i];
      long high = (held.highs == null ? low >> 63 : held.highs[i]) ^ Long.MIN_VALUE;
      for (int b = 0; b < Long.BYTES; b++) {
        bytes[at[i] + b] = (byte) (high >>> (56 - 8 * b));
        bytes[at[i] + Long.BYTES + b] = (byte) (low >>> (56 - 8 * b));
      }
    }
    return new Vector.OfBytes(type, held.size, bytes, at, count, mask);
  }
}
