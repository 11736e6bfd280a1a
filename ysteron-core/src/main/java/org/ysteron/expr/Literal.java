package org.ysteron.expr;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Duration;
import java.time.Period;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/**
 * A literal. Its type is that of the Java class of its value; text stands for a value of any type
 * that its place asks for, NULL for a value of every type.
 *
 * @param value a value, a {@link Period} of months and years, a {@link Duration}, or null
 */
public record Literal(@Nullable Object value) implements Expression {

  /** An expression as it is; anything else as a literal. */
  static Expression orExpression(@Nullable Object value) {
    return value instanceof Expression expression ? expression : new Literal(value);
  }

  /** The type of the value; empty for NULL and for what is no value of any type. */
  public Optional<Type> type() {
    if (value instanceof String) {
      return Optional.of(Types.text());
    }
    if (value instanceof Byte || value instanceof Short || value instanceof Integer) {
      return Optional.of(Types.INTEGER);
    }
    if (value instanceof Long) {
      return Optional.of(Types.BIGINT);
    }
    if (value instanceof Float) {
      return Optional.of(Types.REAL);
    }
    if (value instanceof Double) {
      return Optional.of(Types.DOUBLE);
    }
    if (value instanceof BigInteger whole) {
      return ofDecimal(new BigDecimal(whole));
    }
    if (value instanceof BigDecimal number) {
      return ofDecimal(number);
    }
    if (value instanceof Period) {
      return Optional.of(Type.Interval.MONTHS);
    }
    if (value instanceof Duration) {
      return Optional.of(Type.Interval.MICROSECONDS);
    }
    return value == null ? Optional.empty() : Types.ofJava(value);
  }

  private static Optional<Type> ofDecimal(BigDecimal number) {
    int scale = Math.max(0, number.scale());
    long before = Math.max(number.scale() < 0 ? 1 : 0, (long) number.precision() - number.scale());
    long precision = Math.max(1, Math.max(scale, before + scale));
    return precision <= Type.Decimal.MOST_DIGITS
        ? Optional.of(Types.decimal((int) precision, scale))
        : Optional.empty();
  }

  @Override
  public List<Expression> parts() {
    return List.of();
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return this;
  }

  @Override
  public boolean equals(@Nullable Object other) {
    return other instanceof Literal literal && Objects.deepEquals(value, literal.value);
  }

  @Override
  public int hashCode() {
    return value instanceof byte[] bytes ? java.util.Arrays.hashCode(bytes) : Objects.hash(value);
  }

  @Override
  public String toString() {
    return SqlForm.literal(value);
  }
}
