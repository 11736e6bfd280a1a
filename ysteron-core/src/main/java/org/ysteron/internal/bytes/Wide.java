package org.ysteron.internal.bytes;

import java.math.BigInteger;

/**
 * A whole number of 128 bits, two's complement, that changes in place, so that computing with many
 * makes no objects. For one thread.
 */
public final class Wide {
  private static final int BITS = 128;
  private static final int MOST_DIGITS = 38;

  /** Powers of ten up to 10^38. */
  private static final long[] TEN_HIGH = new long[MOST_DIGITS + 1];

  private static final long[] TEN_LOW = new long[MOST_DIGITS + 1];

  static {
    BigInteger power = BigInteger.ONE;
    for (int i = 0; i <= MOST_DIGITS; i++) {
      TEN_HIGH[i] = power.shiftRight(64).longValue();
      TEN_LOW[i] = power.longValue();
      power = power.multiply(BigInteger.TEN);
    }
  }

  /** The upper 64 bits. */
  public long high;

  /** The lower 64 bits. */
  public long low;

  /** Takes two halves. */
  public Wide set(long newHigh, long newLow) {
    high = newHigh;
    low = newLow;
    return this;
  }

  /** Takes a power of ten. */
  public Wide setTen(int exponent) {
    return set(TEN_HIGH[exponent], TEN_LOW[exponent]);
  }

  /** Whether it is below zero. */
  public boolean isNegative() {
    return high < 0;
  }

  /** Whether it is zero. */
  public boolean isZero() {
    return (high | low) == 0;
  }

  /** Whether 64 bits hold it. */
  public boolean isShort() {
    return high == low >> 63;
  }

  /** Whether it has at most so many digits. */
  public boolean fits(int digits) {
    if (digits > MOST_DIGITS) {
      return true;
    }
    long h = absoluteHigh();
    long l = absoluteLow();
    int order = Long.compareUnsigned(h, TEN_HIGH[digits]);
    return order < 0 || (order == 0 && Long.compareUnsigned(l, TEN_LOW[digits]) < 0);
  }

  /** The upper half of the number without its sign. */
  private long absoluteHigh() {
    return high < 0 ? ~high + (low == 0 ? 1 : 0) : high;
  }

  /** The lower half of the number without its sign. */
  private long absoluteLow() {
    return high < 0 ? -low : low;
  }

  /** Compares with another: below zero when this is less. */
  public int order(Wide other) {
    int order = Long.compare(high, other.high);
    return order != 0 ? order : Long.compareUnsigned(low, other.low);
  }

  /** Changes the sign; false when the result does not fit. */
  public boolean negate() {
    boolean fits = high != Long.MIN_VALUE || low != 0;
    high = ~high + (low == 0 ? 1 : 0);
    low = -low;
    return fits;
  }

  /** Adds; false when the result does not fit. */
  public boolean add(Wide other) {
    long sum = low + other.low;
    long carry = Long.compareUnsigned(sum, low) < 0 ? 1 : 0;
    long before = high;
    long upper = before + other.high + carry;
    low = sum;
    high = upper;
    return ((before ^ upper) & (other.high ^ upper)) >= 0;
  }

  /** Multiplies; false when the result does not fit. */
  public boolean multiply(Wide other) {
    boolean negative = isNegative() != other.isNegative();
    long oh = other.absoluteHigh();
    long ol = other.absoluteLow();
    if (isNegative()) {
      negate();
    }
    if (high != 0 && oh != 0) {
      return false;
    }
    long upper = high != 0 ? high : oh;
    long factor = high != 0 ? ol : low;
    long cross = upper * factor;
    if (upper != 0 && (upper < 0 || unsignedHigh(upper, factor) != 0 || cross < 0)) {
      return false;
    }
    long productHigh = unsignedHigh(low, ol);
    long sum = productHigh + cross;
    if (productHigh < 0 || sum < 0) {
      return false;
    }
    low = low * ol;
    high = sum;
    if (negative) {
      negate();
    }
    return true;
  }

  private static long unsignedHigh(long a, long b) {
    return Math.multiplyHigh(a, b) + ((a >> 63) & b) + ((b >> 63) & a);
  }

  /**
   * Divides, towards zero.
   *
   * @param divisor not zero
   * @param rest gets the remainder, with the sign of the dividend
   */
  public void divide(Wide divisor, Wide rest) {
    boolean negative = isNegative();
    boolean turned = negative != divisor.isNegative();
    long dh = divisor.absoluteHigh();
    long dl = divisor.absoluteLow();
    if (negative) {
      negate();
    }
    divideUnsigned(dh, dl, rest);
    if (turned) {
      negate();
    }
    if (negative) {
      rest.negate();
    }
  }

  private void divideUnsigned(long dh, long dl, Wide rest) {
    if (high == 0 && dh == 0) {
      rest.set(0, Long.remainderUnsigned(low, dl));
      low = Long.divideUnsigned(low, dl);
      return;
    }
    long rh = 0;
    long rl = 0;
    for (int i = 0; i < BITS; i++) {
      rh = rh << 1 | rl >>> 63;
      rl = rl << 1 | high >>> 63;
      high = high << 1 | low >>> 63;
      low <<= 1;
      int order = Long.compareUnsigned(rh, dh);
      if (order > 0 || (order == 0 && Long.compareUnsigned(rl, dl) >= 0)) {
        rh = rh - dh - (Long.compareUnsigned(rl, dl) < 0 ? 1 : 0);
        rl -= dl;
        low |= 1;
      }
    }
    rest.set(rh, rl);
  }

  /** Rounds a quotient half away from zero. */
  public void roundHalf(Wide rest, Wide divisor, boolean negative, Wide scratch) {
    scratch.set(rest.high, rest.low);
    if (scratch.isNegative()) {
      scratch.negate();
    }
    long dh = divisor.absoluteHigh();
    long dl = divisor.absoluteLow();
    // Twice the rest against the divisor, without leaving 128 bits: rest >= divisor - rest.
    long backLow = dl - scratch.low;
    long backHigh = dh - scratch.high - (Long.compareUnsigned(dl, scratch.low) < 0 ? 1 : 0);
    int order = Long.compare(scratch.high, backHigh);
    boolean up = order > 0 || (order == 0 && Long.compareUnsigned(scratch.low, backLow) >= 0);
    if (up && !rest.isZero()) {
      add(scratch.set(negative ? -1 : 0, negative ? -1 : 1));
    }
  }

  /** As a number of any size. */
  public BigInteger big() {
    BigInteger lower = new BigInteger(1, bytes(low));
    return BigInteger.valueOf(high).shiftLeft(64).add(lower);
  }

  private static byte[] bytes(long word) {
    byte[] bytes = new byte[Long.BYTES];
    for (int i = 0; i < bytes.length; i++) {
      bytes[i] = (byte) (word >>> (56 - 8 * i));
    }
    return bytes;
  }

  /** Takes a number; false when it does not fit. */
  public boolean set(BigInteger number) {
    low = number.longValue();
    high = number.shiftRight(64).longValue();
    return number.bitLength() < BITS;
  }
}
