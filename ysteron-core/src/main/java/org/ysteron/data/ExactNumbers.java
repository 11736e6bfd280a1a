package org.ysteron.data;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.Optional;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.WithArticle;

/** Numbers of one Java class as those of another, where that changes nothing of their value. */
final class ExactNumbers {
  private ExactNumbers() {}

  /**
   * The number that a column of a type holds; empty when what was given is no number.
   *
   * @throws InvalidInputException when the type has not exactly this number
   */
  static Optional<Object> of(Object given, Type type) {
    if (given instanceof Float number && type == Types.DOUBLE) {
      return Optional.of((double) number);
    }
    if (given instanceof Double number && type == Types.REAL) {
      if (Double.compare((float) (double) number, number) != 0) {
        throw inexact(given, type);
      }
      return Optional.of((float) (double) number);
    }
    return value(given, type).map(number -> held(number, given, type));
  }

  private static Optional<BigDecimal> value(Object given, Type type) {
    if (given instanceof Byte
        || given instanceof Short
        || given instanceof Integer
        || given instanceof Long) {
      return Optional.of(BigDecimal.valueOf(((Number) given).longValue()));
    }
    if (given instanceof BigInteger number) {
      return Optional.of(new BigDecimal(number));
    }
    if (given instanceof BigDecimal number) {
      return Optional.of(Decimals.bounded(number));
    }
    if (given instanceof Float || given instanceof Double) {
      double number = ((Number) given).doubleValue();
      if (!Double.isFinite(number)) {
        throw inexact(given, type);
      }
      return Optional.of(new BigDecimal(number));
    }
    return Optional.empty();
  }

  private static Object held(BigDecimal number, Object given, Type type) {
    try {
      if (type == Types.INTEGER) {
        return number.intValueExact();
      }
      if (type == Types.BIGINT) {
        return number.longValueExact();
      }
    } catch (ArithmeticException e) {
      if (number.signum() == 0 || number.stripTrailingZeros().scale() <= 0) {
        throw new InvalidInputException(Values.show(given) + " is out of the range of " + type, e);
      }
      throw inexact(given, type);
    }
    if (type == Types.REAL) {
      float near = number.floatValue();
      if (Float.isInfinite(near) || new BigDecimal(near).compareTo(number) != 0) {
        throw inexact(given, type);
      }
      return near;
    }
    if (type == Types.DOUBLE) {
      double near = number.doubleValue();
      if (Double.isInfinite(near) || new BigDecimal(near).compareTo(number) != 0) {
        throw inexact(given, type);
      }
      return near;
    }
    return number;
  }

  private static InvalidInputException inexact(Object given, Type type) {
    return new InvalidInputException(
        "%s (%s) is not a number of type %s; round it first"
            .formatted(Values.show(given), WithArticle.of(given.getClass().getSimpleName()), type));
  }
}
