package org.ysteron.internal.file;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Arrays;
import org.apache.parquet.column.statistics.Statistics;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;

/**
 * Turns what Parquet knows of a chunk or page into a {@link ColumnRange}. Parquet leaves NaN out of
 * its bounds; here it is the greatest number, so unless there is none for certain, it becomes the
 * upper bound.
 */
final class StatisticRanges {
  private static final int LONGEST = 24;

  private StatisticRanges() {}

  /** The range of a chunk; text and binary bounds are cut to 24 bytes. */
  static ColumnRange of(Type type, Statistics<?> statistics, long rows) {
    if (statistics == null || statistics.isEmpty()) {
      return ColumnRange.UNKNOWN;
    }
    long nulls = statistics.isNumNullsSet() ? statistics.getNumNulls() : -1;
    if (nulls == rows) {
      return ColumnRange.allNull(type, nulls);
    }
    if (!statistics.hasNonNullValue()) {
      return ColumnRange.UNKNOWN;
    }
    boolean nan = statistics.isNanCountSet() ? statistics.getNanCount() > 0 : true;
    return of(
        type,
        nulls,
        ByteBuffer.wrap(statistics.getMinBytes()),
        ByteBuffer.wrap(statistics.getMaxBytes()),
        nan);
  }

  /** The range between two values in Parquet's plain encoding. */
  static ColumnRange of(Type type, long nulls, ByteBuffer min, ByteBuffer max, boolean nan) {
    if (Ordered.isBytes(type)) {
      byte[] low = ordered(type, min);
      byte[] high = ordered(type, max);
      return ColumnRange.of(type, nulls, cutLow(type, low), cutHigh(type, high));
    }
    if (Ordered.isFloating(type)) {
      double low = floating(type, min);
      double high = nan ? Double.NaN : floating(type, max);
      if (Double.isNaN(low)) {
        return ColumnRange.UNKNOWN;
      }
      return ColumnRange.of(type, nulls, Ordered.ofDouble(low), Ordered.ofDouble(high));
    }
    return ColumnRange.of(type, nulls, whole(type, min), whole(type, max));
  }

  private static double floating(Type type, ByteBuffer plain) {
    ByteBuffer bytes = plain.duplicate().order(ByteOrder.LITTLE_ENDIAN);
    return type == Types.REAL ? bytes.getFloat() : bytes.getDouble();
  }

  private static long whole(Type type, ByteBuffer plain) {
    ByteBuffer bytes = plain.duplicate().order(ByteOrder.LITTLE_ENDIAN);
    return switch (type.physical()) {
      case BOOLEAN -> bytes.get();
      case INT -> bytes.getInt();
      default -> bytes.getLong();
    };
  }

  private static byte[] ordered(Type type, ByteBuffer plain) {
    byte[] bytes = new byte[plain.remaining()];
    plain.duplicate().get(bytes);
    if (type instanceof Type.Decimal && bytes.length > 0) {
      bytes[0] ^= (byte) 0x80;
    }
    return bytes;
  }

  private static boolean isCut(Type type, byte[] bytes) {
    return bytes.length > LONGEST && !(type instanceof Type.Decimal) && type != Types.UUID;
  }

  private static byte[] cutLow(Type type, byte[] bytes) {
    return isCut(type, bytes) ? Arrays.copyOf(bytes, boundary(type, bytes)) : bytes;
  }

  /** The least bound of at most 24 bytes above a value; null when there is none. */
  private static byte[] cutHigh(Type type, byte[] bytes) {
    if (!isCut(type, bytes)) {
      return bytes;
    }
    byte[] head = Arrays.copyOf(bytes, boundary(type, bytes));
    return type.isText() ? nextText(head) : Ordered.afterPrefix(head);
  }

  /** Where to cut so that no character is split. */
  private static int boundary(Type type, byte[] bytes) {
    int end = LONGEST;
    while (type.isText() && end > 0 && (bytes[end] & 0xc0) == 0x80) {
      end--;
    }
    return end;
  }

  /** Raises the last character that can be raised and drops those behind it. */
  private static byte[] nextText(byte[] utf8) {
    int[] points = new String(utf8, java.nio.charset.StandardCharsets.UTF_8).codePoints().toArray();
    for (int i = points.length - 1; i >= 0; i--) {
      if (points[i] < Character.MAX_CODE_POINT) {
        int next = points[i] + 1;
        points[i] =
            next >= Character.MIN_SURROGATE && next <= Character.MAX_SURROGATE ? 0xe000 : next;
        return new String(points, 0, i + 1).getBytes(java.nio.charset.StandardCharsets.UTF_8);
      }
    }
    return null;
  }
}
