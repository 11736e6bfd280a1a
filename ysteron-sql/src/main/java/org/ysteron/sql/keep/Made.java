package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import java.util.function.IntPredicate;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;

/** Vectors made of words of 64 bits, and what else columns of steps are made of. */
public final class Made {
  private static final int WIDE_BYTES = 16;

  private Made() {}

  /**
   * Exact numbers (unscaled), booleans, dates and times by their numbers, approximate numbers by
   * their bits.
   *
   * @param highs the high words of decimals of more than 18 digits; null where the low ones do
   * @param nulls the bits of the rows that are null; null for none
   */
  public static Vector vector(Type type, int size, long[] lows, long[] highs, long[] nulls) {
    return switch (type.physical()) {
      case BOOLEAN -> {
        boolean[] values = new boolean[size];
        for (int i = 0; i < size; i++) {
          values[i] = lows[i] != 0;
        }
        yield new Vector.OfBoolean(type, size, values, nulls);
      }
      case INT -> {
        int[] values = new int[size];
        for (int i = 0; i < size; i++) {
          values[i] = (int) lows[i];
        }
        yield new Vector.OfInt(type, size, values, nulls);
      }
      case LONG -> new Vector.OfLong(type, size, lows, nulls);
      case FLOAT -> {
        float[] values = new float[size];
        for (int i = 0; i < size; i++) {
          values[i] = (float) Double.longBitsToDouble(lows[i]);
        }
        yield new Vector.OfFloat(type, size, values, nulls);
      }
      case DOUBLE -> {
        double[] values = new double[size];
        for (int i = 0; i < size; i++) {
          values[i] = Double.longBitsToDouble(lows[i]);
        }
        yield new Vector.OfDouble(Types.DOUBLE, size, values, nulls);
      }
      case BYTES -> wide(type, size, lows, highs, nulls);
      case NESTED -> throw new IllegalArgumentException(type + " is nested");
    };
  }

  /** The bits of the rows that are null, of so many; null when none of them is. */
  public static long @Nullable [] nullBits(int count, IntPredicate isNull) {
    long[] bits = null;
    for (int i = 0; i < count; i++) {
      if (isNull.test(i)) {
        bits = bits == null ? new long[(count + 63) >> 6] : bits;
        bits[i >> 6] |= 1L << i;
      }
    }
    return bits;
  }

  /** Columns of some types, under names that only steps know. */
  public static Schema schema(List<Type> types) {
    List<Field> columns = new ArrayList<>();
    for (Type type : types) {
      columns.add(Field.of("c" + columns.size(), type));
    }
    return Schema.of(columns);
  }

  /** So many nulls. */
  public static Vector nulls(Type type, int count) {
    VectorBuilder builder = new VectorBuilder(type, count);
    for (int i = 0; i < count; i++) {
      builder.addNull();
    }
    return builder.buildLast();
  }

  private static Vector wide(Type type, int size, long[] lows, long[] highs, long[] nulls) {
    byte[] bytes = new byte[Math.multiplyExact(WIDE_BYTES, size)];
    int[] starts = new int[size];
    int[] lengths = new int[size];
    for (int i = 0; i < size; i++) {
      int at = WIDE_BYTES * i;
      starts[i] = at;
      lengths[i] = WIDE_BYTES;
      long high = (highs == null ? lows[i] >> 63 : highs[i]) ^ Long.MIN_VALUE;
      for (int b = 0; b < Long.BYTES; b++) {
        bytes[at + b] = (byte) (high >>> (56 - 8 * b));
        bytes[at + Long.BYTES + b] = (byte) (lows[i] >>> (56 - 8 * b));
      }
    }
    return new Vector.OfBytes(type, size, bytes, starts, lengths, nulls);
  }
}
