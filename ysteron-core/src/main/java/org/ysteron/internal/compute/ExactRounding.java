package org.ysteron.internal.compute;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.typing.Numbers;

/**
 * Exact numbers at another scale and in the range of another type: CAST, ROUND, FLOOR, CEIL, the
 * sign changed or taken away. It computes as {@link ExactMath} does.
 */
final class ExactRounding extends Kernel {
  /** How digits are left out. */
  enum Way {
    /** None may be left out but zeros. */
    EXACT,
    HALF_UP,
    DOWN,
    FLOOR,
    CEIL
  }

  private final Kernel of;
  private final Kernel places;
  private final Way way;
  private final int digits;
  private final Wide a = new Wide();
  private final Wide b = new Wide();
  private final Wide rest = new Wide();
  private final Wide scratch = new Wide();
  private boolean inexact;

  /**
   * Numbers at the scale of a type.
   *
   * @param places the decimal places to round to before, or null for those of the type
   */
  ExactRounding(Kernel of, Kernel places, Way way, Type type) {
    super(type);
    this.of = of;
    this.places = places;
    this.way = way;
    this.digits = Numbers.precision(type);
  }

  @Override
  public Held eval(Rows rows) {
    Held from = of.eval(rows);
    Held to = places == null ? null : places.eval(rows);
    out.begin(rows, Held.Form.LONGS, from);
    int given = Numbers.scale(of.type);
    int wanted = Numbers.scale(type);
    if (to != null) {
      out.nullsOf(to);
    }
    if (to == null && given == wanted && from.highs == null && inRange(from, rows.size())) {
      System.arraycopy(from.longs, 0, out.longs, 0, rows.size());
      return out;
    }
    for (int j = 0; j < rows.count(); j++) {
      int i = rows.selected()[j];
      if (!out.isNull(i)) {
        from.to(a, i);
        inexact = false;
        boolean fits = scale(given, to == null ? wanted : (int) limited(to.longs[i]), wanted);
        if (inexact) {
          throw failure(
              i,
              from.show(i, of.type) + " has more decimal places than " + type + "; round it first");
        }
        if (!fits || !fits(a)) {
          throw failure(
              i,
              from.show(i, of.type)
                  + (way == Way.EXACT ? " is out of the range of " : " does not fit ")
                  + type);
        }
        out.set(i, a);
      }
    }
    return out;
  }

  private static long limited(long places) {
    return Math.max(-100, Math.min(100, places));
  }

  private boolean inRange(Held from, int size) {
    if (type == Types.BIGINT || of.type.equals(type)) {
      return true;
    }
    long bad = 0;
    if (type == Types.INTEGER) {
      for (int i = 0; i < size; i++) {
        bad |= from.longs[i] ^ (int) from.longs[i];
      }
      return bad == 0;
    }
    return Numbers.precision(of.type) <= digits;
  }

  /** Rounds to some places, then brings to the scale that is wanted; false when it overflows. */
  private boolean scale(int given, int rounded, int wanted) {
    int drop = given - rounded;
    boolean fits = true;
    if (drop > 0) {
      drop(drop);
      fits = shift(wanted - rounded);
    } else {
      fits = shift(wanted - given);
    }
    return fits;
  }

  private boolean shift(int digits) {
    if (digits > 38) {
      return a.isZero();
    }
    if (digits >= 0) {
      return a.multiply(b.setTen(digits));
    }
    drop(-digits);
    return true;
  }

  private void drop(int digits) {
    boolean negative = a.isNegative();
    if (digits > 38) {
      boolean away =
          !a.isZero() && ((way == Way.FLOOR && negative) || (way == Way.CEIL && !negative));
      a.set(away && negative ? -1 : 0, away ? (negative ? -1 : 1) : 0);
      return;
    }
    b.setTen(digits);
    a.divide(b, rest);
    switch (way) {
      case HALF_UP -> a.roundHalf(rest, b, negative, scratch);
      case FLOOR -> {
        if (rest.isNegative()) {
          a.add(b.set(-1, -1));
        }
      }
      case CEIL -> {
        if (!rest.isNegative() && !rest.isZero()) {
          a.add(b.set(0, 1));
        }
      }
      case EXACT -> inexact |= !rest.isZero();
      case DOWN -> {}
    }
  }

  /** The sign of exact numbers and intervals changed, or taken away. */
  static final class Sign extends Kernel {
    private final Kernel of;
    private final boolean onlyNegative;
    private final Wide a = new Wide();

    Sign(Kernel of, boolean onlyNegative) {
      super(of.type);
      this.of = of;
      this.onlyNegative = onlyNegative;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.LONGS, from);
      long least = type == Types.INTEGER ? Integer.MIN_VALUE : Long.MIN_VALUE;
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (out.isNull(i)) {
          continue;
        }
        long low = from.longs[i];
        if (from.highs == null && out.highs == null && low != least) {
          out.longs[i] = onlyNegative && low >= 0 ? low : -low;
          continue;
        }
        from.to(a, i);
        boolean fits = (onlyNegative && !a.isNegative()) || a.negate();
        if (!fits || !fits(a)) {
          throw failure(i, "-(" + from.show(i, type) + ") does not fit " + type);
        }
        out.set(i, a);
      }
      return out;
    }
  }
}
