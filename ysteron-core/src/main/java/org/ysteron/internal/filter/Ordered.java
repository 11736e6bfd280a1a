package org.ysteron.internal.filter;

import java.util.Arrays;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;

/**
 * Every comparable type as one of two ordered domains: whole numbers of 64 bits, or unsigned bytes.
 * Reals and doubles become whole numbers that order alike, with -0.0 as 0.0 and NaN above all.
 */
public final class Ordered {
  private Ordered() {}

  /** Whether values of a type compare as bytes, not as whole numbers. */
  public static boolean isBytes(Type type) {
    return type.physical() == Type.Physical.BYTES;
  }

  /** Whether the type is a real or a double. */
  public static boolean isFloating(Type type) {
    return type == Types.REAL || type == Types.DOUBLE;
  }

  /** The whole number of a double. */
  public static long ofDouble(double value) {
    long bits = Double.doubleToLongBits(value == 0 ? 0.0 : value);
    return bits ^ ((bits >> 63) & Long.MAX_VALUE);
  }

  /** The double of a whole number made by {@link #ofDouble}. */
  public static double toDouble(long ordered) {
    return Double.longBitsToDouble(ordered ^ ((ordered >> 63) & Long.MAX_VALUE));
  }

  /** The whole number of a value that is not null and not held as bytes. */
  public static long number(Vector vector, int row) {
    if (vector instanceof Vector.OfLong longs) {
      return longs.values()[row];
    }
    if (vector instanceof Vector.OfInt ints) {
      return ints.values()[row];
    }
    if (vector instanceof Vector.OfDouble doubles) {
      return ofDouble(doubles.values()[row]);
    }
    if (vector instanceof Vector.OfFloat floats) {
      return ofDouble(floats.values()[row]);
    }
    return ((Vector.OfBoolean) vector).values()[row] ? 1 : 0;
  }

  /** The whole number of an accepted value of a type that is not held as bytes. */
  public static long ofValue(Object value, Type type) {
    return isFloating(type) ? ofDouble(((Number) value).doubleValue()) : Values.toLong(value, type);
  }

  /** Compares two accepted values of a type. */
  public static int compare(Object a, Object b, Type type) {
    return isBytes(type)
        ? compare(Values.toBytes(a, type), Values.toBytes(b, type))
        : Long.compare(ofValue(a, type), ofValue(b, type));
  }

  /** Compares bytes, unsigned. */
  public static int compare(byte[] a, byte[] b) {
    return Arrays.compareUnsigned(a, b);
  }

  /**
   * The least bytes above all that start with a prefix, or null when there are none (the prefix is
   * empty or all 0xff).
   */
  public static byte[] afterPrefix(byte[] prefix) {
    for (int i = prefix.length - 1; i >= 0; i--) {
      if (prefix[i] != (byte) 0xff) {
        byte[] after = Arrays.copyOf(prefix, i + 1);
        after[i]++;
        return after;
      }
    }
    return null;
  }
}
