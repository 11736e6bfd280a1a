package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.typing.Numbers;

/**
 * {@code + - * /} and MOD of exact numbers. A batch is computed in 64 bits, all rows in one loop
 * that notes whether something did not fit; if so, its selected rows are computed again, one after
 * the other in 128 bits, and fail where even the type of the result is too small.
 */
final class ExactMath extends Kernel {
  private static final long[] TEN = new long[19];

  static {
    TEN[0] = 1;
    for (int i = 1; i < TEN.length; i++) {
      TEN[i] = TEN[i - 1] * 10;
    }
  }

  private final Operator operator;
  private final Kernel left;
  private final Kernel right;
  private final int leftShift;
  private final int rightShift;
  private final int digits;
  private final Wide a = new Wide();
  private final Wide b = new Wide();
  private final Wide c = new Wide();
  private final Wide d = new Wide();

  ExactMath(Operator operator, Kernel left, Kernel right, Type type) {
    super(type);
    this.operator = operator;
    this.left = left;
    this.right = right;
    this.digits = Numbers.precision(type);
    int scale = Numbers.scale(type);
    int one = Numbers.scale(left.type);
    int other = Numbers.scale(right.type);
    this.leftShift =
        switch (operator) {
          case MULTIPLY -> 0;
          case DIVIDE -> scale + other - one;
          default -> scale - one;
        };
    this.rightShift =
        operator == Operator.MULTIPLY || operator == Operator.DIVIDE ? 0 : scale - other;
  }

  @Override
  public Held eval(Rows rows) {
    Held one = left.eval(rows);
    Held other = right.eval(rows);
    out.begin(rows, Held.Form.LONGS, one, other);
    boolean isShort =
        one.highs == null
            && other.highs == null
            && leftShift < TEN.length
            && rightShift < TEN.length;
    if (!isShort || !fast(one.longs, other.longs, rows.size())) {
      slow(one, other, rows);
    }
    return out;
  }

  /** All rows in 64 bits; false when something does not fit. */
  private boolean fast(long[] one, long[] other, int size) {
    long[] to = out.longs;
    long bad =
        switch (operator) {
          case ADD -> add(one, other, to, size);
          case SUBTRACT -> subtract(one, other, to, size);
          case MULTIPLY -> multiply(one, other, to, size);
          default -> divide(one, other, to, size);
        };
    if (bad != 0) {
      return false;
    }
    if (type == Types.INTEGER) {
      for (int i = 0; i < size; i++) {
        bad |= to[i] ^ (int) to[i];
      }
    } else if (digits < TEN.length) {
      long limit = TEN[digits];
      for (int i = 0; i < size; i++) {
        bad |= (limit - 1 - to[i]) | (limit - 1 + to[i]);
      }
      bad = bad < 0 ? 1 : 0;
    }
    return bad == 0;
  }

  private long add(long[] one, long[] other, long[] to, int size) {
    long f = TEN[leftShift];
    long g = TEN[rightShift];
    long bad = 0;
    if (f == 1 && g == 1) {
      for (int i = 0; i < size; i++) {
        long x = one[i];
        long y = other[i];
        long sum = x + y;
        to[i] = sum;
        bad |= (x ^ sum) & (y ^ sum);
      }
      return bad < 0 ? 1 : 0;
    }
    for (int i = 0; i < size; i++) {
      long x = one[i] * f;
      long y = other[i] * g;
      long sum = x + y;
      to[i] = sum;
      bad |= (x ^ sum) & (y ^ sum);
      bad |= spilled(one[i], f, x) | spilled(other[i], g, y);
    }
    return bad < 0 ? 1 : 0;
  }

  private long subtract(long[] one, long[] other, long[] to, int size) {
    long f = TEN[leftShift];
    long g = TEN[rightShift];
    long bad = 0;
    for (int i = 0; i < size; i++) {
      long x = one[i] * f;
      long y = other[i] * g;
      long difference = x - y;
      to[i] = difference;
      bad |= (x ^ y) & (x ^ difference);
      bad |= spilled(one[i], f, x) | spilled(other[i], g, y);
    }
    return bad < 0 ? 1 : 0;
  }

  /** Below zero when a product did not fit. */
  private static long spilled(long x, long factor, long product) {
    return Math.multiplyHigh(x, factor) == product >> 63 ? 0 : -1;
  }

  private static long multiply(long[] one, long[] other, long[] to, int size) {
    long bad = 0;
    for (int i = 0; i < size; i++) {
      long product = one[i] * other[i];
      to[i] = product;
      bad |= Math.multiplyHigh(one[i], other[i]) ^ (product >> 63);
    }
    return bad;
  }

  private long divide(long[] one, long[] other, long[] to, int size) {
    long f = TEN[leftShift];
    long g = TEN[rightShift];
    for (int i = 0; i < size; i++) {
      long x = one[i] * f;
      long y = other[i] * g;
      if ((spilled(one[i], f, x) | spilled(other[i], g, y)) != 0 || y == 0 || y == -1) {
        return 1; // by zero; or the least number by -1, which does not fit
      }
      if (operator == Operator.MOD) {
        boolean small = x == (int) x && y == (int) y;
        to[i] = small ? (int) x % (int) y : x % y;
      } else {
        long quotient = x / y;
        long rest = Math.abs(x % y);
        boolean up = rest != 0 && rest >= Math.abs(y) - rest;
        to[i] = up ? quotient + ((x ^ y) < 0 ? -1 : 1) : quotient;
      }
    }
    return 0;
  }

  private void slow(Held one, Held other, Rows rows) {
    for (int j = 0; j < rows.count(); j++) {
      int i = rows.selected()[j];
      if (!out.isNull(i)) {
        one.to(a, i);
        other.to(b, i);
        compute(i, one, other);
        out.set(i, a);
      }
    }
  }

  private void compute(int row, Held one, Held other) {
    boolean divides = operator == Operator.DIVIDE || operator == Operator.MOD;
    if (divides && b.isZero()) {
      throw failure(row, show(row, one, other) + " is a division by zero");
    }
    boolean fits = a.multiply(c.setTen(leftShift));
    fits = b.multiply(c.setTen(rightShift)) && fits;
    if (fits) {
      switch (operator) {
        case ADD -> fits = a.add(b);
        case SUBTRACT -> fits = b.negate() && a.add(b);
        case MULTIPLY -> fits = a.multiply(b);
        case MOD -> {
          a.divide(b, c);
          a.set(c.high, c.low);
        }
        default -> {
          boolean negative = a.isNegative() != b.isNegative();
          a.divide(b, c);
          a.roundHalf(c, b, negative, d);
        }
      }
    }
    if (!fits) {
      fits = large(row, one, other);
    }
    if (!fits || !fits(a)) {
      throw failure(row, show(row, one, other) + " does not fit " + type);
    }
  }

  /** What 128 bits do not hold on the way, and yet perhaps at the end. */
  private boolean large(int row, Held one, Held other) {
    BigInteger x = one.to(a, row).big().multiply(BigInteger.TEN.pow(leftShift));
    BigInteger y = other.to(b, row).big().multiply(BigInteger.TEN.pow(rightShift));
    BigInteger result =
        switch (operator) {
          case ADD -> x.add(y);
          case SUBTRACT -> x.subtract(y);
          case MULTIPLY -> x.multiply(y);
          case MOD -> x.remainder(y);
          default ->
              new BigDecimal(x).divide(new BigDecimal(y), 0, RoundingMode.HALF_UP).unscaledValue();
        };
    return a.set(result);
  }

  private String show(int row, Held one, Held other) {
    return one.show(row, left.type) + " " + operator.sql() + " " + other.show(row, right.type);
  }
}
