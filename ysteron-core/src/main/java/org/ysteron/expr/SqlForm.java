package org.ysteron.expr;

import java.math.BigInteger;
import java.time.Duration;
import java.time.Period;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Values;

/** Expressions as SQL text. */
final class SqlForm {
  private static final int MICROS = 1000;

  private SqlForm() {}

  static String of(Call call) {
    List<Expression> parts = call.arguments();
    return switch (call.operator()) {
      case ADD, SUBTRACT, MULTIPLY, DIVIDE, CONCAT ->
          side(parts.get(0), call.operator(), true)
              + " "
              + call.operator().sql()
              + " "
              + side(parts.get(1), call.operator(), false);
      case NEGATE -> negated(parts.get(0));
      case TRIM -> trim("BOTH", parts);
      case TRIM_LEADING -> trim("LEADING", parts);
      case TRIM_TRAILING -> trim("TRAILING", parts);
      case SUBSTRING ->
          "SUBSTRING(%s FROM %s%s)"
              .formatted(
                  parts.get(0), parts.get(1), parts.size() > 2 ? " FOR " + parts.get(2) : "");
      case POSITION -> position(parts.get(0), parts.get(1));
      case OVERLAY ->
          "OVERLAY(%s PLACING %s FROM %s%s)"
              .formatted(
                  parts.get(0),
                  parts.get(1),
                  parts.get(2),
                  parts.size() > 3 ? " FOR " + parts.get(3) : "");
      case CURRENT_TIMESTAMP -> "CURRENT_TIMESTAMP";
      case ARRAY ->
          "ARRAY[" + String.join(", ", parts.stream().map(Expression::toString).toList()) + "]";
      default ->
          call.operator().sql()
              + "("
              + String.join(", ", parts.stream().map(Expression::toString).toList())
              + ")";
    };
  }

  /** A minus before a negative number, which a parser would take for one positive number. */
  private static String negated(Expression part) {
    return part instanceof Literal literal && isNegative(literal.value())
        ? "-(CAST(" + part + " AS " + literal.type().orElseThrow() + "))"
        : "-(" + part + ")";
  }

  /** POSITION, whose first operand is a simple one in the grammar of ISO; else LOCATE of JDBC. */
  private static String position(Expression part, Expression text) {
    boolean simple = !(isCompound(part) || part instanceof Element || part instanceof FieldOf);
    return simple
        ? "POSITION(" + part + " IN " + operand(text) + ")"
        : "{fn LOCATE(" + part + ", " + text + ")}";
  }

  /** An operand of an operator that stands between two. */
  private static String side(Expression part, Operator above, boolean left) {
    if (part instanceof Call call && isInfix(call.operator()) && above != Operator.CONCAT) {
      int own = rank(call.operator());
      if (own > rank(above) || (left && own == rank(above))) {
        return part.toString();
      }
    }
    boolean chain = left && part instanceof Call call && call.operator() == Operator.CONCAT;
    return chain && above == Operator.CONCAT ? part.toString() : operand(part);
  }

  private static int rank(Operator operator) {
    return switch (operator) {
      case MULTIPLY, DIVIDE -> 2;
      case ADD, SUBTRACT -> 1;
      default -> 0;
    };
  }

  private static String trim(String ends, List<Expression> parts) {
    String of = parts.size() > 1 ? parts.get(1).toString() : "' '";
    return "TRIM(" + ends + " " + of + " FROM " + parts.get(0) + ")";
  }

  /** An expression as part of another, in parentheses where it needs them. */
  static String operand(Expression part) {
    return isCompound(part) ? "(" + part + ")" : part.toString();
  }

  private static boolean isCompound(Expression part) {
    return part instanceof Condition
        || (part instanceof Call call && isInfix(call.operator()))
        || (part instanceof Literal literal && isNegative(literal.value()));
  }

  private static boolean isNegative(@Nullable Object value) {
    return value instanceof Number && value.toString().startsWith("-");
  }

  private static boolean isInfix(Operator operator) {
    return switch (operator) {
      case ADD, SUBTRACT, MULTIPLY, DIVIDE, CONCAT, NEGATE -> true;
      default -> false;
    };
  }

  /** A literal whose text has its type. */
  static String literal(@Nullable Object value) {
    if (value instanceof Double number) {
      return Double.isFinite(number)
          ? approximate(number.toString())
          : "CAST('" + number + "' AS DOUBLE)";
    }
    if (value instanceof Float number) {
      String text = Float.isFinite(number) ? approximate(number.toString()) : "'" + number + "'";
      return "CAST(" + text + " AS REAL)";
    }
    if (value instanceof Long number && number == number.intValue()) {
      return "CAST(" + number + " AS BIGINT)";
    }
    if (value instanceof Period period) {
      return "INTERVAL '" + period.toTotalMonths() + "' MONTH";
    }
    if (value instanceof Duration time) {
      return interval(time);
    }
    if (value instanceof java.util.UUID) {
      return "CAST('" + value + "' AS UUID)";
    }
    if (value instanceof Boolean truth) {
      return truth ? "TRUE" : "FALSE";
    }
    return value == null ? "NULL" : Values.literal(value);
  }

  private static String approximate(String number) {
    return number.indexOf('E') < 0 ? number + "E0" : number;
  }

  /** An interval of the largest unit of which it is a whole number. */
  private static String interval(Duration time) {
    long seconds = time.getSeconds();
    if (time.getNano() == 0) {
      if (seconds % 86_400 == 0 && seconds != 0) {
        return "INTERVAL '" + seconds / 86_400 + "' DAY";
      }
      if (seconds % 3_600 == 0 && seconds != 0) {
        return "INTERVAL '" + seconds / 3_600 + "' HOUR";
      }
      if (seconds % 60 == 0 && seconds != 0) {
        return "INTERVAL '" + seconds / 60 + "' MINUTE";
      }
      return "INTERVAL '" + seconds + "' SECOND";
    }
    BigInteger micros =
        BigInteger.valueOf(seconds)
            .multiply(BigInteger.valueOf(1_000_000))
            .add(BigInteger.valueOf(time.getNano() / MICROS));
    return "INTERVAL '" + new java.math.BigDecimal(micros, 6).toPlainString() + "' SECOND";
  }

  /** Two parts that are compared. */
  static String compared(Expression left, String operator, Expression right) {
    return "%s %s %s"
        .formatted(
            compared(left, right instanceof Column),
            operator,
            compared(right, left instanceof Column));
  }

  /**
   * A part that is compared.
   *
   * @param withColumn whether literals are compared with a column, whose type they take; else
   *     approximate ones must look so
   */
  static String compared(Expression part, boolean withColumn) {
    return part instanceof Literal literal
            && (withColumn
                || !(literal.value() instanceof Double || literal.value() instanceof Float))
            && !(literal.value() instanceof Duration)
            && !(literal.value() instanceof Period)
        ? Values.literal(literal.value())
        : part instanceof Condition ? "(" + part + ")" : part.toString();
  }
}
