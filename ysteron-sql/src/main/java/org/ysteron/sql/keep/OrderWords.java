package org.ysteron.sql.keep;

import org.ysteron.data.Vector;
import org.ysteron.internal.filter.Ordered;

/**
 * Numbers of 64 bits in the order of values: equal values have equal numbers, and a value that is
 * before another has no greater one. Of texts the number has the first bytes.
 */
final class OrderWords {
  private OrderWords() {}

  /**
   * Finds the numbers of the values of a column.
   *
   * @param order the direction, and where nulls are
   * @return whether values with equal numbers are equal
   */
  static boolean of(Vector vector, Ordering.Order order, long[] numbers) {
    boolean tellsAll = !(vector instanceof Vector.OfBytes) && !vector.type().isNested();
    boolean nulls = vector.nulls() != null;
    for (int i = 0; i < numbers.length; i++) {
      if (nulls && vector.isNull(i)) {
        numbers[i] = order.nullsFirst() ? Long.MIN_VALUE : Long.MAX_VALUE;
        continue;
      }
      long number = number(vector, i);
      numbers[i] = order.descending() ? ~number : number;
      tellsAll &= !nulls || (number != Long.MIN_VALUE && number != Long.MAX_VALUE);
    }
    return tellsAll;
  }

  private static long number(Vector vector, int i) {
    if (vector instanceof Vector.OfBytes of) {
      return begin(of.data(), of.starts()[i], of.lengths()[i]) ^ Long.MIN_VALUE;
    }
    return vector.type().isNested() ? 0 : Ordered.number(vector, i);
  }

  private static long begin(byte[] data, int start, int length) {
    long begin = 0;
    for (int b = 0; b < Long.BYTES; b++) {
      begin = begin << Byte.SIZE | (b < length ? data[start + b] & 0xFF : 0);
    }
    return begin;
  }
}
