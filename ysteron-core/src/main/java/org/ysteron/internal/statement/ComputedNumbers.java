package org.ysteron.internal.statement;

import java.math.BigDecimal;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.text.Decimals;

/** Turns numbers into the class of a column where that loses nothing. */
final class ComputedNumbers {
  private ComputedNumbers() {}

  /** The number as the column's class; the number itself when it does not fit. */
  static Object exact(Number given, Type type) {
    try {
      if (type == Types.INTEGER) {
        return decimal(given).intValueExact();
      }
      if (type == Types.BIGINT) {
        return decimal(given).longValueExact();
      }
      if (type instanceof Type.Decimal) {
        return decimal(given);
      }
      if (type == Types.DOUBLE) {
        return given.doubleValue();
      }
      if (type == Types.REAL && (double) given.floatValue() == given.doubleValue()) {
        return given.floatValue();
      }
    } catch (ArithmeticException | NumberFormatException e) {
      return given;
    }
    return given;
  }

  private static BigDecimal decimal(Number given) {
    return Decimals.of(given);
  }
}
