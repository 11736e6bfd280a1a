package org.ysteron.internal.filter;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.expr.Condition;
import org.ysteron.internal.typing.Costs;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/**
 * Between which values an expression lies when its columns lie within ranges (interval arithmetic).
 * Where a function rises or falls in each argument, its least and greatest values are at the
 * corners, which are computed as rows are.
 */
final class Spans {
  private static final int MOST_CORNERS = 4;

  private final Ranges ranges;
  private final Corners corners;

  private Spans(Ranges ranges, Corners corners) {
    this.ranges = ranges;
    this.corners = corners;
  }

  /**
   * Where values lie.
   *
   * @param isAllNull whether each of them is null
   * @param mayBeNull whether some may be null
   * @param low none is below it; null when that is not known
   * @param high none is above it; null when that is not known
   */
  private record Span(boolean isAllNull, boolean mayBeNull, Object low, Object high) {
    static final Span UNKNOWN = new Span(false, true, null, null);
    static final Span NULL = new Span(true, true, null, null);

    boolean isBounded() {
      return low != null && high != null;
    }
  }

  /** What ranges say of a condition. */
  static Verdict test(TypedTest test, Ranges ranges, Corners corners) {
    Spans spans = new Spans(ranges, corners);
    if (test instanceof TypedTest.Compare compare) {
      return spans.compare(compare);
    }
    boolean isNull =
        test instanceof TypedTest.OneOf
            || test instanceof TypedTest.Like
            || test instanceof TypedTest.Holds;
    if (isNull && spans.of(test.values().get(test.values().size() - 1)).isAllNull) {
      return Verdict.NONE;
    }
    return Verdict.SOME;
  }

  private Verdict compare(TypedTest.Compare test) {
    Span left = of(test.left());
    Span right = of(test.right());
    if (left.isAllNull || right.isAllNull) {
      return Verdict.NONE;
    }
    if (!left.isBounded() || !right.isBounded()) {
      return Verdict.SOME;
    }
    Type one = test.left().type();
    Type other = test.right().type();
    int lows = order(left.low, one, right.high, other);
    int highs = order(left.high, one, right.low, other);
    boolean some =
        switch (test.comparison()) {
          case LESS -> lows < 0;
          case AT_MOST -> lows <= 0;
          case GREATER -> highs > 0;
          case AT_LEAST -> highs >= 0;
          case EQUAL -> lows <= 0 && highs >= 0;
          case NOT_EQUAL -> !(lows == 0 && highs == 0);
        };
    if (!some) {
      return Verdict.NONE;
    }
    boolean all =
        switch (test.comparison()) {
          case LESS -> highs < 0;
          case AT_MOST -> highs <= 0;
          case GREATER -> lows > 0;
          case AT_LEAST -> lows >= 0;
          case EQUAL -> lows == 0 && highs == 0;
          case NOT_EQUAL -> lows > 0 || highs < 0;
        };
    boolean sure = !left.mayBeNull && !right.mayBeNull;
    return all && sure && !Costs.canFail(test.left()) && !Costs.canFail(test.right())
        ? Verdict.ALL
        : Verdict.SOME;
  }

  private static int order(Object a, Type one, Object b, Type other) {
    return Numbers.isExact(one) && Numbers.isExact(other)
        ? number(a).compareTo(number(b))
        : Ordered.compare(a, b, one);
  }

  private static BigDecimal number(Object value) {
    return value instanceof BigDecimal exact
        ? exact
        : BigDecimal.valueOf(((Number) value).longValue());
  }

  private Span of(Typed typed) {
    if (typed instanceof Typed.Constant constant) {
      return constant.value() == null
          ? Span.NULL
          : new Span(false, false, constant.value(), constant.value());
    }
    if (typed instanceof Typed.OfColumn column) {
      return of(ranges.range(column.field().id()));
    }
    if (typed instanceof Typed.First first) {
      return united(first.parts(), first.type(), true);
    }
    if (typed instanceof Typed.Choice choice) {
      List<Typed> values = new ArrayList<>(choice.values());
      values.add(choice.otherwise());
      return united(values, choice.type(), false);
    }
    return corners(typed);
  }

  private static Span of(ColumnRange range) {
    if (range.state() == ColumnRange.State.ALL_NULL) {
      return Span.NULL;
    }
    if (range.state() != ColumnRange.State.BOUNDED) {
      return Span.UNKNOWN;
    }
    boolean nulls = range.nulls() != 0;
    Type type = range.type();
    if (Ordered.isFloating(type)) {
      double low = Ordered.toDouble(range.min());
      double high = Ordered.toDouble(range.max());
      if (Double.isNaN(low) || Double.isNaN(high)) {
        return new Span(false, nulls, null, null);
      }
      boolean real = type == Types.REAL;
      return new Span(
          false, nulls, real ? (Object) (float) low : low, real ? (Object) (float) high : high);
    }
    if (!Ordered.isBytes(type)) {
      return new Span(
          false, nulls, Values.fromLong(range.min(), type), Values.fromLong(range.max(), type));
    }
    if (type instanceof Type.Decimal && range.maxBytes() != null) {
      return new Span(
          false,
          nulls,
          Values.fromBytes(range.minBytes(), 0, range.minBytes().length, type),
          Values.fromBytes(range.maxBytes(), 0, range.maxBytes().length, type));
    }
    return new Span(false, nulls, null, null);
  }

  /** All values of some, of which each may be the one that counts. */
  private Span united(List<Typed> parts, Type type, boolean untilNotNull) {
    boolean allNull = true;
    boolean nulls = false;
    boolean everyNull = true;
    Object low = null;
    Object high = null;
    boolean bounded = true;
    for (Typed part : parts) {
      Span span = of(part);
      nulls |= span.mayBeNull;
      everyNull &= span.mayBeNull;
      if (span.isAllNull) {
        continue;
      }
      bounded &= span.isBounded();
      if (bounded) {
        low = low == null || order(span.low, type, low, type) < 0 ? span.low : low;
        high = high == null || order(span.high, type, high, type) > 0 ? span.high : high;
      }
      allNull = false;
    }
    if (allNull) {
      return Span.NULL;
    }
    boolean mayBeNull = untilNotNull ? everyNull : nulls;
    return bounded ? new Span(false, mayBeNull, low, high) : new Span(false, mayBeNull, null, null);
  }

  private Span corners(Typed typed) {
    List<Typed> parts = typed.parts();
    boolean nulls = false;
    boolean isNull = false;
    boolean bounded = true;
    Span[] spans = new Span[parts.size()];
    for (int p = 0; p < spans.length; p++) {
      spans[p] = of(parts.get(p));
      nulls |= spans[p].mayBeNull;
      isNull |= spans[p].isAllNull;
      bounded &= spans[p].isBounded();
    }
    Corners.Function function = corners.of(typed);
    boolean strict = function.isStrict();
    if (strict && isNull) {
      return Span.NULL;
    }
    if (!strict || !function.isMonotone() || parts.size() > 2 || !bounded) {
      return new Span(false, !strict || nulls, null, null);
    }
    int count = parts.size() == 1 ? 2 : MOST_CORNERS;
    Object[][] at = new Object[parts.size()][];
    for (int p = 0; p < parts.size(); p++) {
      Object[] values = new Object[count];
      for (int c = 0; c < count; c++) {
        values[c] = (c >> p & 1) == 0 ? spans[p].low : spans[p].high;
      }
      at[p] = values;
    }
    Optional<List<Object>> values = function.at(at);
    if (values.isEmpty()) {
      return new Span(false, nulls, null, null);
    }
    Object low = null;
    Object high = null;
    for (Object v : values.get()) {
      low = low == null || order(v, typed.type(), low, typed.type()) < 0 ? v : low;
      high = high == null || order(v, typed.type(), high, typed.type()) > 0 ? v : high;
    }
    return new Span(false, nulls, low, high);
  }

  /** The comparison of a condition, when it is one of something with a constant. */
  static Optional<TypedTest.Compare> withConstant(TypedTest test) {
    if (!(test instanceof TypedTest.Compare compare)) {
      return Optional.empty();
    }
    if (compare.right() instanceof Typed.Constant) {
      return Optional.of(compare);
    }
    if (compare.left() instanceof Typed.Constant) {
      Condition.Comparison turned = compare.comparison().turned();
      Typed value = compare.right();
      Typed constant = compare.left();
      return Optional.of(new TypedTest.Compare(value, turned, constant));
    }
    return Optional.empty();
  }
}
