package org.ysteron.internal.filter;

import java.math.BigInteger;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;

/** Bounds of a type as bounds of a wider one, where they are held otherwise. */
final class RangeWidening {
  private static final long MICROS_A_DAY = 86_400_000_000L;

  private RangeWidening() {}

  /** The range in a wider type; unknown when its bounds cannot be converted. */
  static ColumnRange of(ColumnRange range, Type to) {
    Type type = range.type();
    try {
      if (type == Types.DATE && to == Types.TIMESTAMP) {
        return ColumnRange.of(
            to,
            range.nulls(),
            Math.multiplyExact(range.min(), MICROS_A_DAY),
            Math.multiplyExact(range.max(), MICROS_A_DAY));
      }
      if (to == Types.DOUBLE && type == Types.INTEGER) {
        return ColumnRange.of(
            to,
            range.nulls(),
            Ordered.ofDouble((double) range.min()),
            Ordered.ofDouble((double) range.max()));
      }
      return to instanceof Type.Decimal decimal ? toDecimal(range, decimal) : ColumnRange.UNKNOWN;
    } catch (ArithmeticException e) {
      return ColumnRange.UNKNOWN;
    }
  }

  private static ColumnRange toDecimal(ColumnRange range, Type.Decimal to) {
    int scale;
    if (range.type() instanceof Type.Decimal from) {
      scale = from.scale();
    } else if (range.type() == Types.INTEGER || range.type() == Types.BIGINT) {
      scale = 0;
    } else {
      return ColumnRange.UNKNOWN;
    }
    if (to.scale() < scale || Ordered.isBytes(range.type())) {
      return ColumnRange.UNKNOWN;
    }
    BigInteger factor = BigInteger.TEN.pow(to.scale() - scale);
    BigInteger low = BigInteger.valueOf(range.min()).multiply(factor);
    BigInteger high = BigInteger.valueOf(range.max()).multiply(factor);
    return to.isShort()
        ? ColumnRange.of(to, range.nulls(), low.longValueExact(), high.longValueExact())
        : ColumnRange.of(
            to, range.nulls(), Values.orderedDecimal(low), Values.orderedDecimal(high));
  }
}
