package org.ysteron.change;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Decimals;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;

/**
 * The least type of a value that came without one: parsed JSON (maps, lists, text, numbers, truth)
 * or Java values. Text stays text, whatever is in it.
 */
final class ValueTypes {
  private ValueTypes() {}

  /**
   * The type of a value; empty when it tells none (null, an empty list or object).
   *
   * @throws InvalidInputException when no type takes all elements of a list
   */
  static Optional<Type> of(Object value) {
    if (value instanceof Row row) {
      return Optional.of(new Type.Struct(row.fields()));
    }
    if (value instanceof Map<?, ?> object) {
      List<Field> fields = new ArrayList<>();
      object.forEach(
          (name, inner) ->
              of(inner).ifPresent(type -> fields.add(Field.of(String.valueOf(name), type))));
      return fields.isEmpty() ? Optional.empty() : Optional.of(new Type.Struct(fields));
    }
    if (value instanceof List<?> list) {
      Type element = null;
      for (Object each : list) {
        Optional<Type> type = of(each);
        if (type.isPresent()) {
          element = element == null ? type.get() : both(element, type.get());
        }
      }
      return Optional.ofNullable(element).map(Types::listOf);
    }
    return Optional.ofNullable(value).map(ValueTypes::single);
  }

  /** A type that takes the values of both. */
  static Type both(Type one, Type other) {
    if (one instanceof Type.Struct a && other instanceof Type.Struct b) {
      List<Field> fields = new ArrayList<>(a.fields());
      for (Field field : b.fields()) {
        int at = a.indexOf(field.name());
        if (at < 0) {
          fields.add(field);
        } else {
          fields.set(at, fields.get(at).withType(both(fields.get(at).type(), field.type())));
        }
      }
      return new Type.Struct(fields);
    }
    if (one instanceof Type.ListOf a && other instanceof Type.ListOf b) {
      return Types.listOf(both(a.element().type(), b.element().type()));
    }
    return Widening.common(one, other)
        .orElseThrow(
            () ->
                new InvalidInputException(
                    "there are values of %s and of %s, which no type takes".formatted(one, other)));
  }

  private static Type single(Object value) {
    if (value instanceof Integer) {
      return Types.INTEGER;
    }
    if (value instanceof Long) {
      return Types.BIGINT;
    }
    if (value instanceof BigInteger whole) {
      return decimal(Decimals.of(whole));
    }
    if (value instanceof BigDecimal number) {
      // As text a double and a decimal look alike; most often a double is meant.
      Decimals.bounded(number);
      double nearest = number.doubleValue();
      boolean isDouble =
          Double.isFinite(nearest)
              && new BigDecimal(Double.toString(nearest)).compareTo(number) == 0;
      return isDouble ? Types.DOUBLE : decimal(number);
    }
    if (value instanceof Float) {
      return Types.REAL;
    }
    if (value instanceof Double) {
      return Types.DOUBLE;
    }
    return Types.ofJava(value).orElse(Types.text());
  }

  private static Type decimal(BigDecimal number) {
    int scale = Math.max(0, number.scale());
    int before = Math.max(0, number.precision() - number.scale());
    return Types.decimal(Math.max(1, before + scale), scale);
  }
}
