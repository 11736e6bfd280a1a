package org.ysteron.internal.drift;

import java.math.BigDecimal;
import java.math.BigInteger;

/**
 * What numbers need of a type.
 *
 * @param width of whole ones: 0 for INTEGER, 1 for BIGINT, 2 for more
 * @param before digits before the point
 * @param behind digits behind the point
 * @param noDouble whether no double holds one of them
 * @param noReal whether no number of single precision holds one of them
 * @param onlyDouble whether only a double holds one, since it is not finite
 */
record Digits(
    int width, int before, int behind, boolean noDouble, boolean noReal, boolean onlyDouble) {
  static final Digits NONE = new Digits(0, 0, 0, false, false, false);

  Digits and(Digits other) {
    Digits both =
        new Digits(
            Math.max(width, other.width),
            Math.max(before, other.before),
            Math.max(behind, other.behind),
            noDouble || other.noDouble,
            noReal || other.noReal,
            onlyDouble || other.onlyDouble);
    return both.equals(this) ? this : both;
  }

  static Digits of(BigDecimal number) {
    BigInteger whole = number.signum() == 0 ? BigInteger.ZERO : number.toBigInteger();
    int bits = whole.bitLength();
    int width = bits < Integer.SIZE ? 0 : bits < Long.SIZE ? 1 : 2;
    int before = Math.max(0, number.precision() - number.scale());
    return new Digits(
        width,
        before,
        Math.max(0, number.scale()),
        !Exactness.isDouble(number),
        !Exactness.isReal(number),
        false);
  }
}
