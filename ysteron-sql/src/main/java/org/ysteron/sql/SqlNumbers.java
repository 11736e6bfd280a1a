package org.ysteron.sql;

import java.math.BigDecimal;
import java.math.MathContext;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.LocalDate;
import java.time.temporal.Temporal;
import java.time.temporal.TemporalAmount;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/** Arithmetic and comparison of values, none of which is null. */
final class SqlNumbers {
  private SqlNumbers() {}

  static Object add(Object a, Object b) {
    if (a instanceof Temporal at && b instanceof TemporalAmount amount) {
      return moved(at, amount, true);
    }
    if (b instanceof Temporal at && a instanceof TemporalAmount amount) {
      return moved(at, amount, true);
    }
    return isDouble(a, b)
        ? (Object) (real(a) + real(b))
        : Decimals.bounded(exact(a, "added").add(exact(b, "added")));
  }

  static Object subtract(Object a, Object b) {
    if (a instanceof Temporal at && b instanceof TemporalAmount amount) {
      return moved(at, amount, false);
    }
    return isDouble(a, b)
        ? (Object) (real(a) - real(b))
        : Decimals.bounded(exact(a, "subtracted").subtract(exact(b, "subtracted")));
  }

  static Object multiply(Object a, Object b) {
    return isDouble(a, b)
        ? (Object) (real(a) * real(b))
        : Decimals.bounded(exact(a, "multiplied").multiply(exact(b, "multiplied")));
  }

  static Object divide(Object a, Object b) {
    if (isDouble(a, b)) {
      return real(a) / real(b);
    }
    if (exact(b, "divided").signum() == 0) {
      throw new InvalidInputException(Values.show(a) + " is divided by zero");
    }
    BigDecimal quotient = exact(a, "divided").divide(exact(b, "divided"), MathContext.DECIMAL64);
    return Decimals.bounded(quotient.scale() > 0 ? quotient.stripTrailingZeros() : quotient);
  }

  private static Temporal moved(Temporal at, TemporalAmount amount, boolean forward) {
    try {
      if (at instanceof LocalDate date
          && amount instanceof Duration time
          && time.equals(Duration.ofDays(time.toDays()))) {
        return date.plusDays(forward ? time.toDays() : -time.toDays());
      }
      return forward ? at.plus(amount) : at.minus(amount);
    } catch (DateTimeException | ArithmeticException e) {
      throw new InvalidInputException(
          "The interval %2$s cannot be added to %1$s: %3$s".formatted(at, amount, e.getMessage()),
          e);
    }
  }

  private static boolean isDouble(Object a, Object b) {
    return a instanceof Double || a instanceof Float || b instanceof Double || b instanceof Float;
  }

  private static double real(Object value) {
    if (value instanceof Number number) {
      return number.doubleValue();
    }
    throw new InvalidInputException(Values.show(value) + " is no number");
  }

  private static BigDecimal exact(Object value, String what) {
    if (value instanceof BigDecimal number) {
      return Decimals.bounded(number);
    }
    if (value instanceof Integer || value instanceof Long) {
      return BigDecimal.valueOf(((Number) value).longValue());
    }
    throw new InvalidInputException("%s cannot be %s".formatted(Values.show(value), what));
  }

  /** Compares as SQL does; text is read as a value of the other's type. */
  @SuppressWarnings("unchecked") // the classes were made equal
  static int compare(Object a, Object b) {
    if (a instanceof Number && b instanceof Number) {
      return isDouble(a, b)
          ? Double.compare(real(a), real(b))
          : exact(a, "compared").compareTo(exact(b, "compared"));
    }
    if (a instanceof String text && !(b instanceof String)) {
      return compare(ValueText.parse(text, typeOf(b)), b);
    }
    if (b instanceof String text && !(a instanceof String)) {
      return compare(a, ValueText.parse(text, typeOf(a)));
    }
    if (a.getClass() != b.getClass() || !(a instanceof Comparable)) {
      throw new InvalidInputException(
          "%s cannot be compared with %s".formatted(Values.show(a), Values.show(b)));
    }
    return ((Comparable<Object>) a).compareTo(b);
  }

  private static Type typeOf(Object value) {
    if (value instanceof BigDecimal number) {
      return Types.decimal(38, Math.max(0, number.scale()));
    }
    Type other = value instanceof Number ? Types.DOUBLE : Types.text();
    return Types.ofJava(value).orElse(other);
  }
}
