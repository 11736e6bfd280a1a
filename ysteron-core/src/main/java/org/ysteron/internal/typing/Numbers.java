package org.ysteron.internal.typing;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Operator;

/**
 * The types of numbers that are computed. ISO leaves precisions to the implementation: INTEGER and
 * BIGINT stay among themselves, an exact result has all digits that it can need up to 38, a
 * quotient six decimal places at least, and what is approximate is DOUBLE PRECISION.
 */
public final class Numbers {
  private static final int MOST = Type.Decimal.MOST_DIGITS;
  private static final int QUOTIENT_SCALE = 6;
  private static final int INTEGER_DIGITS = 10;
  private static final int BIGINT_DIGITS = 19;

  private Numbers() {}

  /** Whether numbers of a type are exact. */
  public static boolean isExact(Type type) {
    return type instanceof Type.Decimal || isWhole(type);
  }

  /** Whether numbers of a type are whole by their type. */
  public static boolean isWhole(Type type) {
    return type == Types.INTEGER || type == Types.BIGINT;
  }

  /** The digits behind the decimal point of an exact type. */
  public static int scale(Type type) {
    return type instanceof Type.Decimal decimal ? decimal.scale() : 0;
  }

  /** The digits of an exact type. */
  public static int precision(Type type) {
    return type instanceof Type.Decimal decimal
        ? decimal.precision()
        : type == Types.INTEGER ? INTEGER_DIGITS : BIGINT_DIGITS;
  }

  /** The type of a sum, difference, product, quotient or remainder. */
  public static Type of(Operator operator, Type left, Type right) {
    if (!isExact(left) || !isExact(right)) {
      return Types.DOUBLE;
    }
    if (isWhole(left) && isWhole(right) && operator != Operator.DIVIDE) {
      return left == Types.BIGINT || right == Types.BIGINT ? Types.BIGINT : Types.INTEGER;
    }
    int leftBefore = precision(left) - scale(left);
    int rightBefore = precision(right) - scale(right);
    int widest = Math.max(scale(left), scale(right));
    return switch (operator) {
      case MULTIPLY ->
          decimal(precision(left) + precision(right), scale(left) + scale(right), "product");
      case DIVIDE -> {
        int scale = Math.max(QUOTIENT_SCALE, widest);
        yield decimal(leftBefore + scale(right) + scale, scale, "quotient");
      }
      case MOD -> decimal(Math.min(leftBefore, rightBefore) + widest, widest, "remainder");
      default -> decimal(Math.max(leftBefore, rightBefore) + 1 + widest, widest, "sum");
    };
  }

  private static Type decimal(int precision, int scale, String what) {
    if (scale > MOST) {
      throw new InvalidInputException(
          "The %s would have %d decimal places, more than the %d that a DECIMAL can have. CAST an operand to fewer places."
              .formatted(what, scale, MOST));
    }
    return Types.decimal(Math.max(1, Math.min(MOST, Math.max(precision, scale))), scale);
  }

  /** The type of a number that is rounded to some places. */
  static Type rounded(Type type, int places) {
    if (!(type instanceof Type.Decimal decimal)) {
      return type;
    }
    int scale = Math.max(0, Math.min(places, decimal.scale()));
    return decimal(decimal.precision() - decimal.scale() + 1 + scale, scale, "number");
  }
}
