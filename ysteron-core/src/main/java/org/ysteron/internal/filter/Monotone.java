package org.ysteron.internal.filter;

import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.typing.Typed;

/** Which expressions rise or fall with what they are computed from. */
final class Monotone {
  private Monotone() {}

  /** Whether null comes out exactly where null goes in. */
  static boolean isStrict(Typed typed) {
    return typed instanceof Typed.Applied applied
        ? applied.operator() != Operator.JSON_VALUE
        : typed instanceof Typed.OfTime || typed instanceof Typed.Converted;
  }

  /** Whether it rises or falls in each argument, whatever the others are. */
  static boolean isMonotone(Typed typed) {
    if (typed instanceof Typed.Applied applied) {
      boolean time = applied.parts().stream().anyMatch(part -> part.type() == Types.TIME);
      return switch (applied.operator()) {
        case ADD, SUBTRACT, MULTIPLY -> !time || typed.type() instanceof Type.Interval;
        case NEGATE, FLOOR, CEIL, EXP, SQRT, LN -> true;
        case ROUND -> applied.parts().get(1) instanceof Typed.Constant;
        case DIVIDE -> applied.parts().get(1) instanceof Typed.Constant by && isNotZero(by.value());
        default -> false;
      };
    }
    if (typed instanceof Typed.OfTime part) {
      return part.kind() != TimePart.Kind.EXTRACT
          || (part.unit() == TimeUnit.YEAR)
          || (part.unit() == TimeUnit.HOUR && part.of().type() == Types.TIME);
    }
    return typed instanceof Typed.Converted converted
        && isOrdered(converted.of().type())
        && isOrdered(typed.type());
  }

  private static boolean isNotZero(Object value) {
    return value instanceof Number number && number.doubleValue() != 0;
  }

  /** Whether casts among types keep the order: numbers among each other, and times. */
  private static boolean isOrdered(Type type) {
    return type.isNumber()
        || type == Types.DATE
        || type == Types.TIMESTAMP
        || type == Types.INSTANT;
  }

  /** How an expression of one column follows it: 1 rising, -1 falling, 0 neither. */
  static int direction(Typed typed) {
    if (typed instanceof Typed.OfColumn column) {
      return column.type().isNested() ? 0 : 1;
    }
    List<Typed> parts = typed.parts();
    int at = -1;
    for (int p = 0; p < parts.size(); p++) {
      if (!(parts.get(p) instanceof Typed.Constant constant)) {
        if (at >= 0) {
          return 0;
        }
        at = p;
      } else if (constant.value() == null
          || (constant.value() instanceof Double d && !Double.isFinite(d))) {
        return 0;
      }
    }
    if (at < 0 || !isStrict(typed) || !isMonotone(typed)) {
      return 0;
    }
    int inner = direction(parts.get(at));
    if (!(typed instanceof Typed.Applied applied)) {
      return inner;
    }
    return switch (applied.operator()) {
      case NEGATE -> -inner;
      case SUBTRACT -> at == 0 ? inner : -inner;
      case MULTIPLY, DIVIDE ->
          at == 0 || applied.operator() == Operator.MULTIPLY ? inner * sign(parts.get(1 - at)) : 0;
      default -> at == 0 || applied.operator() == Operator.ADD ? inner : 0;
    };
  }

  private static int sign(Typed constant) {
    Object value = ((Typed.Constant) constant).value();
    if (value instanceof java.time.Period period) {
      return Long.signum(period.toTotalMonths());
    }
    if (value instanceof java.time.Duration time) {
      return time.isNegative() ? -1 : time.isZero() ? 0 : 1;
    }
    return (int) Math.signum(((Number) value).doubleValue());
  }
}
