package org.ysteron.internal.compute;

import org.ysteron.data.Types;
import org.ysteron.expr.Operator;

/**
 * Operators and functions of approximate numbers. A result that is not finite although the operands
 * are is an error, as ISO says; what is not finite already goes by IEEE 754.
 */
final class DoubleMath extends Kernel {
  private final Operator operator;
  private final Kernel left;
  private final Kernel right;

  /** {@code right} is null for a function of one number. */
  DoubleMath(Operator operator, Kernel left, Kernel right) {
    super(Types.DOUBLE);
    this.operator = operator;
    this.left = left;
    this.right = right;
  }

  @Override
  public Held eval(Rows rows) {
    Held one = left.eval(rows);
    Held other = right == null ? one : right.eval(rows);
    out.begin(rows, Held.Form.DOUBLES, one, other);
    double[] x = one.doubles;
    double[] y = other.doubles;
    double[] to = out.doubles;
    int size = rows.size();
    switch (operator) {
      case ADD -> {
        for (int i = 0; i < size; i++) {
          to[i] = x[i] + y[i];
        }
      }
      case SUBTRACT -> {
        for (int i = 0; i < size; i++) {
          to[i] = x[i] - y[i];
        }
      }
      case MULTIPLY -> {
        for (int i = 0; i < size; i++) {
          to[i] = x[i] * y[i];
        }
      }
      case DIVIDE -> {
        for (int i = 0; i < size; i++) {
          to[i] = x[i] / y[i];
        }
      }
      default -> {
        for (int j = 0; j < rows.count(); j++) {
          int i = rows.selected()[j];
          to[i] = out.isNull(i) ? 0 : function(x[i], y[i]);
        }
      }
    }
    check(rows, x, y);
    return out;
  }

  private double function(double x, double y) {
    return switch (operator) {
      case NEGATE -> -x;
      case ABS -> Math.abs(x);
      case FLOOR -> Math.floor(x);
      case CEIL -> Math.ceil(x);
      case SQRT -> Math.sqrt(x);
      case EXP -> StrictMath.exp(x);
      case LN -> x == 0 ? Double.NaN : StrictMath.log(x);
      case POWER -> x == 0 && y < 0 ? Double.NaN : StrictMath.pow(x, y);
      default -> throw new IllegalStateException(operator + " is not of doubles");
    };
  }

  private void check(Rows rows, double[] x, double[] y) {
    double[] to = out.doubles;
    double zeros = 0;
    for (int i = 0; i < rows.size(); i++) {
      zeros += to[i] * 0; // not a number when some result is not finite
    }
    if (zeros == 0 && operator != Operator.DIVIDE) {
      return;
    }
    for (int j = 0; j < rows.count(); j++) {
      int i = rows.selected()[j];
      if (out.isNull(i)) {
        continue;
      }
      boolean root = operator == Operator.SQRT || operator == Operator.LN;
      boolean given =
          (Double.isFinite(x[i]) && Double.isFinite(y[i]))
              || (root && x[i] == Double.NEGATIVE_INFINITY);
      if (operator == Operator.DIVIDE && y[i] == 0) {
        throw failure(i, x[i] + " / " + y[i] + " is a division by zero");
      }
      if (given && !Double.isFinite(to[i])) {
        throw failure(i, shown(x[i], y[i]) + " is out of the range of DOUBLE PRECISION");
      }
    }
  }

  private String shown(double x, double y) {
    boolean infix = !Character.isLetter(operator.sql().charAt(0));
    if (right == null) {
      return operator.sql() + "(" + x + ")";
    }
    return infix ? x + " " + operator.sql() + " " + y : operator.sql() + "(" + x + ", " + y + ")";
  }

  /** ROUND of approximate numbers, half away from zero, by their decimal text. */
  static final class Round extends Kernel {
    private static final int MOST_PLACES = 400;
    private final Kernel of;
    private final Kernel places;

    Round(Kernel of, Kernel places) {
      super(Types.DOUBLE);
      this.of = of;
      this.places = places;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Held to = places.eval(rows);
      out.begin(rows, Held.Form.DOUBLES, from, to);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          out.doubles[i] = round(from.doubles[i], to.longs[i]);
        }
      }
      return out;
    }

    private static double round(double value, long places) {
      if (!Double.isFinite(value) || value == 0 || places > MOST_PLACES) {
        return value;
      }
      if (places == 0 && Math.abs(value) < 1L << 52) {
        double down = Math.floor(Math.abs(value));
        double rounded = Math.abs(value) - down >= 0.5 ? down + 1 : down;
        return value < 0 ? -rounded : rounded;
      }
      return new java.math.BigDecimal(Double.toString(value))
          .setScale((int) Math.max(-MOST_PLACES, places), java.math.RoundingMode.HALF_UP)
          .doubleValue();
    }
  }
}
