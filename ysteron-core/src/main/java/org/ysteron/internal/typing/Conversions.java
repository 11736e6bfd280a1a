package org.ysteron.internal.typing;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Widening;
import org.ysteron.expr.TimeUnit;

/** Which types become which others, by themselves or by a CAST. */
final class Conversions {
  private static final List<Type> TIMES = List.of(Types.DATE, Types.TIMESTAMP, Types.INSTANT);

  private Conversions() {}

  /** Whether a CAST is defined. */
  static boolean isCast(Type from, Type to) {
    if (from.equals(to) || Widening.isHeldAlike(from, to)) {
      return true;
    }
    if (from.isNumber()) {
      return to.isNumber() || to instanceof Type.Text;
    }
    if (from.isText()) {
      return !to.isNested() && to != Types.BINARY && !(to instanceof Type.Interval);
    }
    if (to instanceof Type.Text) {
      return !from.isNested() && from != Types.BINARY && !(from instanceof Type.Interval);
    }
    return (TIMES.contains(from) && TIMES.contains(to))
        || ((from == Types.TIMESTAMP || from == Types.INSTANT) && to == Types.TIME);
  }

  /** Whether a column takes values of another type, as long as nothing of them is lost. */
  static boolean isStored(Type from, Type to) {
    return (from.isNumber() && to.isNumber())
        || (from.isText() && to.isText())
        || Widening.isExact(from, to)
        || (from.isNested() && isAlike(from, to));
  }

  /** Whether nested types hold the same, whatever the ids of their fields are. */
  private static boolean isAlike(Type from, Type to) {
    return from.toString().equals(to.toString());
  }

  /** The type in which values of two types are compared, or which takes both. */
  static Optional<Type> common(Type one, Type other) {
    if (one.equals(other)) {
      return Optional.of(one);
    }
    if (one.isNumber() && other.isNumber()) {
      Optional<Type> exact = Widening.common(one, other);
      if (exact.isPresent()) {
        return exact;
      }
      boolean both = Numbers.isExact(one) && Numbers.isExact(other);
      return both ? Optional.empty() : Optional.of(Types.DOUBLE);
    }
    if (one.isText() && other.isText()) {
      return Optional.of(Types.text());
    }
    return one.isNested() || other.isNested() ? Optional.empty() : Widening.common(one, other);
  }

  /** Whether dates or times of a type have a unit. */
  static boolean has(Type type, TimeUnit unit) {
    boolean ofDay = unit.compareTo(TimeUnit.DAY) > 0;
    return type == Types.TIMESTAMP
        || type == Types.INSTANT
        || (type == Types.TIME && ofDay)
        || (type == Types.DATE && !ofDay);
  }
}
