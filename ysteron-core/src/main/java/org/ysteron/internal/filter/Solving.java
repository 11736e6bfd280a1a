package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/**
 * For which values of a column a comparison of a rising or falling expression of it with a constant
 * is true. The bounds are found by bisection of the column's ordered domain, where the expression
 * is computed as it is for rows. So whatever rises or falls can be solved, and the answer is exact.
 */
final class Solving {
  private static final long MICROS_A_DAY = 86_400_000_000L;

  private final TypedTest.Compare test;
  private final Typed.OfColumn column;
  private final int direction;
  private final Computation expression;
  private final Selecting less;
  private final Selecting equal;
  private final long least;
  private final long greatest;

  /**
   * An answer.
   *
   * @param passing intervals of values, the first and the last of each, for which the comparison is
   *     true
   * @param failing intervals of values for which the expression cannot be computed
   */
  record Answer(List<Field> along, List<long[]> passing, List<long[]> failing) {

    /** The values for which the comparison is true. */
    BoundTest sure() {
      return test(passing);
    }

    /** The values for which it is true, or fails. */
    BoundTest possible() {
      List<long[]> all = new ArrayList<>(passing);
      all.addAll(failing);
      all.sort(Comparator.comparingLong(interval -> interval[0]));
      return test(all);
    }

    private BoundTest test(List<long[]> intervals) {
      return new NumberIntervals(
          along,
          intervals.stream().mapToLong(interval -> interval[0]).toArray(),
          intervals.stream().mapToLong(interval -> interval[1]).toArray());
    }
  }

  private Solving(TypedTest.Compare test, Typed.OfColumn column, int direction) {
    this.test = test;
    this.column = column;
    this.direction = direction;
    this.expression = new Computation(test.left());
    this.less =
        new Selecting(new TypedTest.Compare(test.left(), Condition.Comparison.LESS, test.right()));
    this.equal =
        new Selecting(new TypedTest.Compare(test.left(), Condition.Comparison.EQUAL, test.right()));
    Type type = column.type();
    if (type == Types.INTEGER || type == Types.DATE) {
      least = Integer.MIN_VALUE;
      greatest = Integer.MAX_VALUE;
    } else if (type == Types.TIME) {
      least = 0;
      greatest = MICROS_A_DAY - 1;
    } else if (Ordered.isFloating(type)) {
      least = Ordered.ofDouble(Double.NEGATIVE_INFINITY);
      greatest = Ordered.ofDouble(Double.POSITIVE_INFINITY);
    } else if (type instanceof Type.Decimal decimal) {
      greatest = java.math.BigInteger.TEN.pow(decimal.precision()).longValueExact() - 1;
      least = -greatest;
    } else {
      least = Long.MIN_VALUE;
      greatest = Long.MAX_VALUE;
    }
  }

  /** Solves a comparison with a constant, which is not null; empty when that is not known. */
  static Optional<Answer> solve(TypedTest.Compare test) {
    int direction = Monotone.direction(test.left());
    if (direction == 0) {
      return Optional.empty();
    }
    Typed.OfColumn column = columnOf(test.left());
    if (Ordered.isBytes(column.type()) || column.type() == Types.BOOLEAN) {
      return Optional.empty();
    }
    return new Solving(test, column, direction).solve();
  }

  private static Typed.OfColumn columnOf(Typed typed) {
    if (typed instanceof Typed.OfColumn column) {
      return column;
    }
    return typed.parts().stream()
        .filter(part -> !(part instanceof Typed.Constant))
        .findFirst()
        .map(Solving::columnOf)
        .orElseThrow();
  }

  private Optional<Answer> solve() {
    Long inside = null;
    for (long point : new long[] {0, least, greatest, 1, -1, Ordered.ofDouble(1)}) {
      boolean inDomain = point >= least && point <= greatest;
      if (inside == null && inDomain && isDefined(point)) {
        inside = point;
      }
    }
    if (inside == null) {
      return Optional.empty();
    }
    long low = isDefined(least) ? least : firstDefined(least, inside);
    long high = isDefined(greatest) ? greatest : lastDefined(inside, greatest);
    List<long[]> intervals = new ArrayList<>();
    List<long[]> failing = new ArrayList<>();
    if (low > least) {
      failing.add(new long[] {least, low - 1});
    }
    long zero = first(low, high, 0);
    long above = first(low, high, 1);
    // first() answers with the end of the domain when there is none; the end is looked at again.
    boolean anyFromZero = sign(high) >= 0;
    boolean anyAbove = sign(high) > 0;
    if (passes(-1) && (!anyFromZero || zero > low)) {
      intervals.add(new long[] {low, anyFromZero ? zero - 1 : high});
    }
    if (passes(0) && anyFromZero && (!anyAbove || above > zero)) {
      intervals.add(new long[] {zero, anyAbove ? above - 1 : high});
    }
    if (passes(1) && anyAbove) {
      intervals.add(new long[] {above, high});
    }
    if (high < greatest) {
      failing.add(new long[] {high + 1, greatest});
    }
    if (Ordered.isFloating(column.type())) {
      long nan = Ordered.ofDouble(Double.NaN);
      if (!isDefined(nan)) {
        failing.add(new long[] {nan, nan});
      } else if (test.comparison().holds(order(nan))) {
        intervals.add(new long[] {nan, nan});
      }
    }
    return Optional.of(new Answer(column.along(), intervals, failing));
  }

  /** Whether values pass whose order to the constant, turned to rise, is below, at or above 0. */
  private boolean passes(int sign) {
    return test.comparison().holds(sign * direction);
  }

  private int sign(long point) {
    return direction * order(point);
  }

  /** The first value whose sign is no less; the last one of the domain when there is none. */
  private long first(long from, long to, int wanted) {
    long low = from;
    long high = to;
    while (low < high) {
      long middle = low + ((high - low) >>> 1);
      if (sign(middle) >= wanted) {
        high = middle;
      } else {
        low = middle + 1;
      }
    }
    return low;
  }

  private long firstDefined(long undefined, long defined) {
    long low = undefined;
    long high = defined;
    while (low + 1 < high) {
      long middle = low + ((high - low) >>> 1);
      if (isDefined(middle)) {
        high = middle;
      } else {
        low = middle;
      }
    }
    return high;
  }

  private long lastDefined(long defined, long undefined) {
    long low = defined;
    long high = undefined;
    while (low + 1 < high) {
      long middle = low + ((high - low) >>> 1);
      if (isDefined(middle)) {
        low = middle;
      } else {
        high = middle;
      }
    }
    return low;
  }

  private boolean isDefined(long point) {
    try {
      return !expression.values(batch(point)).isNull(0);
    } catch (ComputeException e) {
      return false;
    }
  }

  /** How the expression compares with the constant. */
  private int order(long point) {
    Batch batch = batch(point);
    if (isTrue(equal, batch)) {
      return 0;
    }
    return isTrue(less, batch) ? -1 : 1;
  }

  private static boolean isTrue(Selecting test, Batch batch) {
    long[] bits = new long[1];
    test.select(batch, bits);
    return bits[0] != 0;
  }

  /** A row with a value of the column, in the structs along its path. */
  private Batch batch(long point) {
    List<Field> along = column.along();
    Vector vector = vector(point);
    for (int i = along.size() - 1; i > 0; i--) {
      Type.Struct level = new Type.Struct(List.of(along.get(i)));
      vector = new Vector.OfStruct(level, 1, List.of(vector), null);
    }
    return new Batch(new Type.Struct(List.of(along.get(0))), 1, List.of(vector));
  }

  private Vector vector(long point) {
    Type type = column.type();
    return switch (type.physical()) {
      case INT -> new Vector.OfInt(type, 1, new int[] {(int) point}, null);
      case FLOAT ->
          new Vector.OfFloat(type, 1, new float[] {(float) Ordered.toDouble(point)}, null);
      case DOUBLE -> new Vector.OfDouble(type, 1, new double[] {Ordered.toDouble(point)}, null);
      default -> new Vector.OfLong(type, 1, new long[] {point}, null);
    };
  }
}
