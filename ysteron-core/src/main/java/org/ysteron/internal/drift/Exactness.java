package org.ysteron.internal.drift;

import java.math.BigDecimal;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/** Whether binary numbers hold decimal ones, which is: whether they are written as these. */
final class Exactness {
  /** So many digits, and fewer, come out of a double as they went in. */
  static final int SAFE_DOUBLE_DIGITS = 15;

  static final int SAFE_REAL_DIGITS = 6;
  private static final int SAFE_EXPONENT = 200;

  private Exactness() {}

  /** Whether the shortest decimal form of the nearest double is a number. */
  static boolean isDouble(BigDecimal number) {
    if (number.precision() <= SAFE_DOUBLE_DIGITS && Math.abs(number.scale()) <= SAFE_EXPONENT) {
      return true;
    }
    double nearest = number.doubleValue();
    return Double.isFinite(nearest)
        && new BigDecimal(Double.toString(nearest)).compareTo(number) == 0;
  }

  /** Whether the shortest decimal form of the nearest single-precision number is a number. */
  static boolean isReal(BigDecimal number) {
    float nearest = number.floatValue();
    return Float.isFinite(nearest)
        && new BigDecimal(Float.toString(nearest)).compareTo(number) == 0;
  }

  /** Whether a text is a number of so few characters that it is held for sure. */
  static boolean isSurelyHeld(String text, Type type) {
    int safe = type == Types.DOUBLE ? SAFE_DOUBLE_DIGITS : SAFE_REAL_DIGITS;
    return text.length() <= safe && text.indexOf('e') < 0 && text.indexOf('E') < 0;
  }

  /** Whether a type holds a number as it is written; true for all but binary numbers. */
  static boolean isHeld(BigDecimal number, Type type) {
    return type == Types.DOUBLE ? isDouble(number) : type != Types.REAL || isReal(number);
  }
}
