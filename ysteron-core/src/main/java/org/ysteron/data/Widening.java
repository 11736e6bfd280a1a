package org.ysteron.data;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import org.jspecify.annotations.Nullable;

/**
 * Type widening: a wider type holds every value of the narrower one exactly, so that a column can
 * be widened without rewriting its files.
 *
 * <table>
 *   <caption>from and to</caption>
 *   <tr><td>INTEGER</td><td>BIGINT, DOUBLE PRECISION, a DECIMAL with 10 digits before the point</td></tr>
 *   <tr><td>BIGINT</td><td>a DECIMAL with 19 digits before the point</td></tr>
 *   <tr><td>REAL</td><td>DOUBLE PRECISION</td></tr>
 *   <tr><td>DECIMAL(p, s)</td><td>a DECIMAL with no fewer digits before and after the decimal point</td></tr>
 *   <tr><td>DATE</td><td>TIMESTAMP, its midnight</td></tr>
 *   <tr><td>VARCHAR(n)</td><td>a VARCHAR with a higher limit or none</td></tr>
 * </table>
 */
public final class Widening {
  private static final long MICROS_A_DAY = 86_400_000_000L;
  private static final int INTEGER_DIGITS = 10;
  private static final int BIGINT_DIGITS = 19;
  private static final int WIDE_BYTES = 16;

  private Widening() {}

  /** Whether a type holds every value of another type exactly; also true for the same type. */
  public static boolean isExact(Type from, Type to) {
    if (from.equals(to)) {
      return true;
    }
    if (from instanceof Type.Text narrow && to instanceof Type.Text wide) {
      return wide.limit().isEmpty()
          || (narrow.limit().isPresent() && narrow.limit().getAsInt() <= wide.limit().getAsInt());
    }
    if (to instanceof Type.Decimal wide) {
      int before = wide.precision() - wide.scale();
      if (from instanceof Type.Decimal narrow) {
        return wide.scale() >= narrow.scale() && before >= narrow.precision() - narrow.scale();
      }
      return (from == Types.INTEGER && before >= INTEGER_DIGITS)
          || (from == Types.BIGINT && before >= BIGINT_DIGITS);
    }
    return (from == Types.INTEGER && (to == Types.BIGINT || to == Types.DOUBLE))
        || (from == Types.REAL && to == Types.DOUBLE)
        || (from == Types.DATE && to == Types.TIMESTAMP);
  }

  /** The narrowest type that holds all values of both; empty if there is none. */
  public static Optional<Type> common(Type one, Type other) {
    if (isExact(one, other)) {
      return Optional.of(other);
    }
    if (isExact(other, one)) {
      return Optional.of(one);
    }
    if (one instanceof Type.Text && other instanceof Type.Text) {
      return Optional.of(Types.text());
    }
    if (isExact(one, Types.DOUBLE) && isExact(other, Types.DOUBLE)) {
      return Optional.of(Types.DOUBLE);
    }
    OptionalInt[] a = digits(one);
    OptionalInt[] b = digits(other);
    if (a[0].isPresent() && b[0].isPresent()) {
      int before = Math.max(a[0].getAsInt(), b[0].getAsInt());
      int scale = Math.max(a[1].getAsInt(), b[1].getAsInt());
      if (before + scale <= Type.Decimal.MOST_DIGITS) {
        return Optional.of(Types.decimal(before + scale, scale));
      }
    }
    return Optional.empty();
  }

  /** The digits before and after the decimal point of an exact number. */
  private static OptionalInt[] digits(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return new OptionalInt[] {
        OptionalInt.of(decimal.precision() - decimal.scale()), OptionalInt.of(decimal.scale())
      };
    }
    if (type == Types.INTEGER || type == Types.BIGINT) {
      int digits = type == Types.INTEGER ? INTEGER_DIGITS : BIGINT_DIGITS;
      return new OptionalInt[] {OptionalInt.of(digits), OptionalInt.of(0)};
    }
    return new OptionalInt[] {OptionalInt.empty(), OptionalInt.empty()};
  }

  /** Whether vectors of both types hold the same values alike, so that nothing is converted. */
  public static boolean isHeldAlike(Type from, Type to) {
    if (from instanceof Type.Decimal narrow && to instanceof Type.Decimal wide) {
      return narrow.scale() == wide.scale() && narrow.isShort() == wide.isShort();
    }
    return from.equals(to) || (from.isText() && to.isText());
  }

  /**
   * A value of a narrower type as one of a wider; inside structs, lists and maps likewise, where
   * fields are found by id and those that are new have their default.
   */
  public static @Nullable Object value(@Nullable Object value, Type from, Type to) {
    if (value != null && to.isNested()) {
      return nested(value, from, to);
    }
    if (value == null || isHeldAlike(from, to)) {
      return to instanceof Type.Decimal wide && value instanceof BigDecimal number
          ? number.setScale(wide.scale())
          : value;
    }
    if (to instanceof Type.Decimal wide) {
      BigDecimal number =
          value instanceof BigDecimal given
              ? given
              : BigDecimal.valueOf(((Number) value).longValue());
      return number.setScale(wide.scale());
    }
    if (to == Types.TIMESTAMP && value instanceof LocalDate date) {
      return date.atStartOfDay();
    }
    if (to == Types.BIGINT && value instanceof Integer number) {
      return number.longValue();
    }
    if (to == Types.DOUBLE && value instanceof Number number) {
      return number.doubleValue();
    }
    throw new IllegalArgumentException(from + " does not widen to " + to);
  }

  private static Object nested(Object value, Type from, Type to) {
    if (from instanceof Type.ListOf narrow && to instanceof Type.ListOf wide) {
      List<Object> elements = new ArrayList<>();
      for (Object element : (List<?>) value) {
        elements.add(value(element, narrow.element().type(), wide.element().type()));
      }
      return elements;
    }
    if (from instanceof Type.MapOf narrow && to instanceof Type.MapOf wide) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      ((Map<?, ?>) value)
          .forEach(
              (key, mapped) ->
                  entries.put(
                      value(key, narrow.key().type(), wide.key().type()),
                      value(mapped, narrow.value().type(), wide.value().type())));
      return entries;
    }
    Type.Struct narrow = (Type.Struct) from;
    Type.Struct wide = (Type.Struct) to;
    Object[] values = new Object[wide.fields().size()];
    for (int i = 0; i < values.length; i++) {
      Field field = wide.fields().get(i);
      values[i] = field.addedDefault().orElse(null);
      for (int n = 0; n < narrow.fields().size(); n++) {
        Field before = narrow.fields().get(n);
        if (before.id() == field.id()) {
          values[i] = value(((Row) value).get(n), before.type(), field.type());
        }
      }
    }
    return Row.of(wide, values);
  }

  /** A vector of a narrower type as one of a wider. */
  public static Vector vector(Vector vector, Type to) {
    int size = vector.size();
    if (isHeldAlike(vector.type(), to)) {
      return retyped(vector, to);
    }
    if (vector instanceof Vector.OfInt ints) {
      int[] values = ints.values();
      if (to == Types.DOUBLE) {
        double[] wide = new double[size];
        for (int i = 0; i < size; i++) {
          wide[i] = values[i];
        }
        return new Vector.OfDouble(to, size, wide, vector.nulls());
      }
      if (to.physical() == Type.Physical.LONG) {
        long factor = factor(vector.type(), to);
        long[] wide = new long[size];
        for (int i = 0; i < size; i++) {
          wide[i] = values[i] * factor;
        }
        return new Vector.OfLong(to, size, wide, vector.nulls());
      }
    }
    if (vector instanceof Vector.OfFloat floats && to == Types.DOUBLE) {
      double[] wide = new double[size];
      for (int i = 0; i < size; i++) {
        wide[i] = floats.values()[i];
      }
      return new Vector.OfDouble(to, size, wide, vector.nulls());
    }
    if (vector instanceof Vector.OfLong longs && to.physical() == Type.Physical.LONG) {
      long factor = factor(vector.type(), to);
      long[] wide = new long[size];
      for (int i = 0; i < size; i++) {
        wide[i] = longs.values()[i] * factor;
      }
      return new Vector.OfLong(to, size, wide, vector.nulls());
    }
    if (to instanceof Type.Decimal wide && !wide.isShort()) {
      return wideDecimals(vector, wide);
    }
    throw new IllegalArgumentException(vector.type() + " does not widen to " + to);
  }

  private static Vector retyped(Vector vector, Type to) {
    if (vector instanceof Vector.OfBytes of) {
      return new Vector.OfBytes(
          to, of.size(), of.data(), of.starts(), of.lengths(), of.nulls(), of.words(), of.codes());
    }
    return vector instanceof Vector.OfLong of
        ? new Vector.OfLong(to, of.size(), of.values(), of.nulls())
        : vector;
  }

  /** By what whole numbers of one type are multiplied to be those of another. */
  private static long factor(Type from, Type to) {
    if (from == Types.DATE) {
      return MICROS_A_DAY;
    }
    int scale = to instanceof Type.Decimal wide ? wide.scale() : 0;
    int had = from instanceof Type.Decimal narrow ? narrow.scale() : 0;
    return BigInteger.TEN.pow(scale - had).longValueExact();
  }

  private static Vector wideDecimals(Vector vector, Type.Decimal to) {
    int size = vector.size();
    int had = vector.type() instanceof Type.Decimal narrow ? narrow.scale() : 0;
    BigInteger factor = BigInteger.TEN.pow(to.scale() - had);
    byte[] data = new byte[WIDE_BYTES * size];
    int[] starts = new int[size];
    int[] lengths = new int[size];
    for (int i = 0; i < size; i++) {
      starts[i] = WIDE_BYTES * i;
      if (!vector.isNull(i)) {
        Object value = vector.present(i);
        BigInteger unscaled =
            value instanceof BigDecimal number
                ? number.unscaledValue()
                : BigInteger.valueOf(((Number) value).longValue());
        byte[] bytes = Values.orderedDecimal(unscaled.multiply(factor));
        System.arraycopy(bytes, 0, data, starts[i], WIDE_BYTES);
        lengths[i] = WIDE_BYTES;
      }
    }
    return new Vector.OfBytes(to, size, data, starts, lengths, vector.nulls());
  }
}
