package org.ysteron.internal.filter;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.text.Decimals;

/**
 * Tests of a column against literals. Every comparison becomes a set of intervals of the column's
 * ordered domain; its negation is the complement of that set.
 */
final class LiteralTests {
  private static final BoundTest NEVER = new BoundTest.Or(List.of());
  private static final BigInteger LEAST = BigInteger.valueOf(Long.MIN_VALUE);
  private static final BigInteger GREATEST = BigInteger.valueOf(Long.MAX_VALUE);

  private LiteralTests() {}

  /** Whether text starts with some text. */
  static BoundTest prefix(List<Field> along, String text, boolean negated) {
    byte[] prefix = text.getBytes(StandardCharsets.UTF_8);
    return bytes(along, List.of(new Bytes(prefix, Ordered.afterPrefix(prefix))), negated);
  }

  static BoundTest compare(List<Field> along, Condition.Comparison comparison, Object literal) {
    if (literal == null) {
      return NEVER;
    }
    Type type = along.get(along.size() - 1).type();
    boolean negated = comparison == Condition.Comparison.NOT_EQUAL;
    Condition.Comparison positive = negated ? Condition.Comparison.EQUAL : comparison;
    if (Ordered.isBytes(type) && !(type instanceof Type.Decimal)) {
      byte[] bytes = Values.toBytes(fit(along, literal), type);
      return bytes(along, List.of(Bytes.of(positive, bytes, bytes)), negated);
    }
    if (Ordered.isFloating(type)) {
      Wholes around = floating(along, literal);
      if (positive == Condition.Comparison.EQUAL && around.low != around.high) {
        return negated ? new BoundTest.OfNull(along, false) : NEVER;
      }
      return numbers(along, List.of(Wholes.of(positive, around.low, around.high)), negated);
    }
    if (exactScale(type) >= 0) {
      return exact(along, positive, literal, negated);
    }
    long held = Values.toLong(fit(along, literal), type);
    return numbers(along, List.of(Wholes.of(positive, held, held)), negated);
  }

  /** The scale of an exact number's type, or -1. */
  private static int exactScale(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return decimal.scale();
    }
    return type == Types.INTEGER || type == Types.BIGINT ? 0 : -1;
  }

  /** Compares with the literal's exact value, of which the column may only have neighbours. */
  private static BoundTest exact(
      List<Field> along, Condition.Comparison comparison, Object literal, boolean negated) {
    Type type = along.get(along.size() - 1).type();
    BigDecimal number = number(along, literal);
    BigInteger floor = number.setScale(exactScale(type), RoundingMode.FLOOR).unscaledValue();
    BigInteger ceiling = number.setScale(exactScale(type), RoundingMode.CEILING).unscaledValue();
    if (comparison == Condition.Comparison.EQUAL && !floor.equals(ceiling)) {
      return negated ? new BoundTest.OfNull(along, false) : NEVER;
    }
    if (Ordered.isBytes(type)) {
      return bytes(along, List.of(Bytes.of(comparison, wide(floor), wide(ceiling))), negated);
    }
    if (floor.compareTo(LEAST) < 0 || ceiling.compareTo(GREATEST) > 0) {
      boolean above = floor.signum() > 0;
      boolean all =
          switch (comparison) {
            case LESS, AT_MOST -> above;
            case GREATER, AT_LEAST -> !above;
            case EQUAL, NOT_EQUAL -> false;
          };
      return all != negated ? new BoundTest.OfNull(along, false) : NEVER;
    }
    Wholes interval = Wholes.of(comparison, floor.longValueExact(), ceiling.longValueExact());
    return numbers(along, List.of(interval), negated);
  }

  private static byte[] wide(BigInteger unscaled) {
    BigInteger limit = BigInteger.ONE.shiftLeft(127).subtract(BigInteger.ONE);
    return Values.orderedDecimal(unscaled.min(limit).max(limit.negate()));
  }

  static BoundTest in(List<Field> along, List<Object> literals, boolean negated) {
    if (negated && literals.contains(null)) {
      return NEVER;
    }
    List<BoundTest> parts = new ArrayList<>();
    Type type = along.get(along.size() - 1).type();
    List<Wholes> numbers = new ArrayList<>();
    List<Bytes> bytes = new ArrayList<>();
    for (Object literal : literals) {
      if (literal == null) {
        continue;
      }
      if (Ordered.isBytes(type) && !(type instanceof Type.Decimal)) {
        byte[] held = Values.toBytes(fit(along, literal), type);
        bytes.add(Bytes.of(Condition.Comparison.EQUAL, held, held));
      } else if (Ordered.isFloating(type)) {
        Wholes around = floating(along, literal);
        if (around.low == around.high) {
          numbers.add(around);
        } else if (negated) {
          parts.add(new BoundTest.OfNull(along, false)); // whatever it has is not equal to that
        }
      } else if (exactScale(type) < 0) {
        long held = Values.toLong(fit(along, literal), type);
        numbers.add(new Wholes(held, held));
      } else if (!exact(along, literal, numbers, bytes) && negated) {
        parts.add(new BoundTest.OfNull(along, false)); // whatever the column has is not equal to it
      }
    }
    if (!numbers.isEmpty()) {
      parts.add(numbers(along, numbers, negated));
    }
    if (!bytes.isEmpty()) {
      parts.add(bytes(along, bytes, negated));
    }
    if (parts.isEmpty()) {
      return negated ? new BoundTest.And(List.of()) : NEVER;
    }
    return negated ? BoundTest.all(parts) : BoundTest.any(parts);
  }

  /** Adds the exact value of a literal; false when no value of the column can be equal to it. */
  private static boolean exact(
      List<Field> along, Object literal, List<Wholes> numbers, List<Bytes> bytes) {
    Type type = along.get(along.size() - 1).type();
    if (exactScale(type) == 0 && (literal instanceof Long || literal instanceof Integer)) {
      long value = ((Number) literal).longValue();
      if (!Ordered.isBytes(type)) {
        numbers.add(new Wholes(value, value));
        return true;
      }
    }
    BigDecimal number = number(along, literal);
    BigInteger floor = number.setScale(exactScale(type), RoundingMode.FLOOR).unscaledValue();
    BigInteger ceiling = number.setScale(exactScale(type), RoundingMode.CEILING).unscaledValue();
    if (!floor.equals(ceiling)) {
      return false;
    }
    if (Ordered.isBytes(type)) {
      bytes.add(Bytes.of(Condition.Comparison.EQUAL, wide(floor), wide(floor)));
      return true;
    }
    if (floor.compareTo(LEAST) < 0 || floor.compareTo(GREATEST) > 0) {
      return false;
    }
    numbers.add(new Wholes(floor.longValueExact(), floor.longValueExact()));
    return true;
  }

  private static Object fit(List<Field> along, Object literal) {
    Type type = along.get(along.size() - 1).type();
    try {
      if (type instanceof Type.Text && literal instanceof String text) {
        // Longer than the limit is no error: it is equal to nothing.
        return Values.accept(text, Types.text());
      }
      return literal instanceof String text && type != Types.JSON
          ? ValueText.parse(text, type)
          : Values.accept(literal, type);
    } catch (InvalidInputException e) {
      throw unfit(along, literal, e);
    }
  }

  /**
   * The values of a real or double column at or next to a literal: low is the greatest that is not
   * above it, high the least that is not below it. A number whose text is that of a value stands
   * for that value; all others are compared exactly.
   */
  private static Wholes floating(List<Field> along, Object literal) {
    Type type = along.get(along.size() - 1).type();
    boolean isFinite =
        literal instanceof Number number
            ? Double.isFinite(number.doubleValue()) || literal instanceof BigDecimal
            : !(literal instanceof String text) || ValueText.isNumber(text);
    if (!isFinite) {
      double value =
          literal instanceof Number number
              ? number.doubleValue()
              : ((Number) fit(along, literal)).doubleValue();
      return new Wholes(Ordered.ofDouble(value), Ordered.ofDouble(value));
    }
    BigDecimal exact = number(along, literal);
    double nearest = type == Types.REAL ? exact.floatValue() : exact.doubleValue();
    if (isTextOf(nearest, exact, type)) {
      return new Wholes(Ordered.ofDouble(nearest), Ordered.ofDouble(nearest));
    }
    int order =
        Double.isInfinite(nearest)
            ? (int) Math.signum(nearest)
            : new BigDecimal(nearest).compareTo(exact);
    double low = order <= 0 ? nearest : down(nearest, type);
    double high = order >= 0 ? nearest : -down(-nearest, type);
    return new Wholes(Ordered.ofDouble(low), Ordered.ofDouble(high));
  }

  private static boolean isTextOf(double value, BigDecimal number, Type type) {
    if (Double.isInfinite(value)) {
      return false;
    }
    boolean asReal =
        type == Types.REAL && new BigDecimal(Float.toString((float) value)).compareTo(number) == 0;
    return asReal || new BigDecimal(Double.toString(value)).compareTo(number) == 0;
  }

  private static double down(double value, Type type) {
    return type == Types.REAL ? Math.nextDown((float) value) : Math.nextDown(value);
  }

  private static BigDecimal number(List<Field> along, Object literal) {
    try {
      if (literal instanceof Float number) {
        return Decimals.of(number.doubleValue()); // its text as a double's has all of it
      }
      if (literal instanceof Number number) {
        return Decimals.of(number);
      }
      if (literal instanceof String text) {
        return Decimals.parse(text);
      }
    } catch (NumberFormatException | InvalidInputException e) {
      throw unfit(along, literal, e);
    }
    throw unfit(along, literal, null);
  }

  private static InvalidInputException unfit(List<Field> along, Object literal, Throwable cause) {
    Type type = along.get(along.size() - 1).type();
    String hint = type == Types.INSTANT ? " Add the time zone, as in '2026-03-01T12:00:00Z'." : "";
    return new InvalidInputException(
        "Column %s is %s and cannot be compared with %s.%s"
            .formatted(Paths.path(along), type, Values.show(literal), hint),
        Paths.path(along),
        cause);
  }

  private static BoundTest numbers(List<Field> along, List<Wholes> intervals, boolean negated) {
    List<Wholes> ordered = new ArrayList<>(intervals);
    ordered.sort(Comparator.comparingLong(Wholes::low));
    List<Wholes> sorted = new ArrayList<>(ordered.size());
    for (Wholes interval : ordered) {
      boolean repeats = !sorted.isEmpty() && sorted.get(sorted.size() - 1).equals(interval);
      if (interval.low <= interval.high && !repeats) {
        sorted.add(interval);
      }
    }
    if (negated) {
      List<Wholes> gaps = new ArrayList<>();
      long next = Long.MIN_VALUE;
      boolean open = true;
      for (Wholes interval : sorted) {
        if (interval.low > next) {
          gaps.add(new Wholes(next, interval.low - 1));
        }
        open = interval.high != Long.MAX_VALUE;
        next = interval.high + 1;
      }
      if (open) {
        gaps.add(new Wholes(next, Long.MAX_VALUE));
      }
      sorted = gaps;
    }
    return sorted.isEmpty()
        ? NEVER
        : new NumberIntervals(
            along,
            sorted.stream().mapToLong(Wholes::low).toArray(),
            sorted.stream().mapToLong(Wholes::high).toArray());
  }

  private static BoundTest bytes(List<Field> along, List<Bytes> intervals, boolean negated) {
    List<Bytes> sorted = new ArrayList<>();
    for (Bytes interval :
        intervals.stream().sorted((a, b) -> Ordered.compare(a.low, b.low)).toList()) {
      Bytes last = sorted.isEmpty() ? null : sorted.get(sorted.size() - 1);
      if (last == null || !Arrays.equals(last.low, interval.low)) {
        sorted.add(interval);
      }
    }
    if (negated) {
      List<Bytes> gaps = new ArrayList<>();
      byte[] next = new byte[0];
      for (Bytes interval : sorted) {
        if (next != null && Ordered.compare(interval.low, next) > 0) {
          gaps.add(new Bytes(next, interval.low));
        }
        next = interval.high;
      }
      if (next != null) {
        gaps.add(new Bytes(next, null));
      }
      sorted = gaps;
    }
    return sorted.isEmpty()
        ? NEVER
        : new ByteIntervals(
            along,
            sorted.stream().map(Bytes::low).toArray(byte[][]::new),
            sorted.stream().map(Bytes::high).toArray(byte[][]::new));
  }

  /** Whole numbers from low to high, both included. */
  private record Wholes(long low, long high) {
    static Wholes of(Condition.Comparison comparison, long floor, long ceiling) {
      return switch (comparison) {
        case EQUAL, NOT_EQUAL -> new Wholes(ceiling, floor);
        case LESS ->
            ceiling == Long.MIN_VALUE ? new Wholes(1, 0) : new Wholes(Long.MIN_VALUE, ceiling - 1);
        case AT_MOST -> new Wholes(Long.MIN_VALUE, floor);
        case GREATER ->
            floor == Long.MAX_VALUE ? new Wholes(1, 0) : new Wholes(floor + 1, Long.MAX_VALUE);
        case AT_LEAST -> new Wholes(ceiling, Long.MAX_VALUE);
      };
    }
  }

  /** Bytes from low, included, to before high; null is no bound. */
  @SuppressWarnings("ArrayRecordComponent") // private, compared by hand
  private record Bytes(byte[] low, byte[] high) {
    static Bytes of(Condition.Comparison comparison, byte[] floor, byte[] ceiling) {
      return switch (comparison) {
        case EQUAL, NOT_EQUAL -> new Bytes(ceiling, next(floor));
        case LESS -> new Bytes(new byte[0], ceiling);
        case AT_MOST -> new Bytes(new byte[0], next(floor));
        case GREATER -> new Bytes(next(floor), null);
        case AT_LEAST -> new Bytes(ceiling, null);
      };
    }

    /** The least bytes above some bytes: those and a zero. */
    private static byte[] next(byte[] bytes) {
      return Arrays.copyOf(bytes, bytes.length + 1);
    }
  }
}
