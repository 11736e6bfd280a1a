package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.math.RoundingMode;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.typing.Numbers;

/** CAST. */
final class CastKernels {
  private CastKernels() {}

  static Kernel of(Kernel from, Type to) {
    Type type = from.type;
    if (Numbers.isExact(type) && Numbers.isExact(to)) {
      boolean whole = Numbers.isWhole(to);
      return new ExactRounding(
          from, null, whole ? ExactRounding.Way.DOWN : ExactRounding.Way.HALF_UP, to);
    }
    if (type.isNumber() && (to == Types.DOUBLE || to == Types.REAL)) {
      return new ToApproximate(from, to);
    }
    if (type.isNumber() && Numbers.isExact(to)) {
      return new ToExact(from, to);
    }
    if (type.isText() && to.isText() && to != Types.JSON) {
      return new TextCasts.Cut(from, to);
    }
    if (to instanceof Type.Text) {
      return new TextCasts.Cut(new TextCasts.ToText(from), to);
    }
    return type.isText() ? new TextCasts.FromText(from, to) : new OfTime(from, to);
  }

  /** Approximate numbers of numbers. */
  private static final class ToApproximate extends Kernel {
    private final Kernel of;
    private final Wide number = new Wide();

    ToApproximate(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.DOUBLES, from);
      boolean exact = Numbers.isExact(of.type);
      int scale = Numbers.scale(of.type);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          double value = exact ? approximate(from, i, scale) : from.doubles[i];
          double held = type == Types.REAL ? (float) value : value;
          if (Double.isInfinite(held) && !Double.isInfinite(value)) {
            throw failure(i, from.show(i, of.type) + " does not fit " + type);
          }
          out.doubles[i] = held;
        }
      }
      return out;
    }

    /** Nearest to the exact value; quotients of whole numbers that doubles hold are. */
    private double approximate(Held from, int row, int scale) {
      from.to(number, row);
      boolean isSmall = number.isShort() && Math.abs(number.low) < 1L << 53 && scale <= 22;
      return isSmall ? number.low / TENS[scale] : new BigDecimal(number.big(), scale).doubleValue();
    }

    private static final double[] TENS = new double[23];

    static {
      for (int i = 0; i < TENS.length; i++) {
        TENS[i] = Double.parseDouble("1e" + i);
      }
    }
  }

  /** Exact numbers of approximate ones. */
  private static final class ToExact extends Kernel {
    private final Kernel of;
    private final Wide number = new Wide();

    ToExact(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.LONGS, from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          if (!convert(from.doubles[i])) {
            throw failure(i, from.show(i, of.type) + " does not fit " + type);
          }
          out.set(i, number);
        }
      }
      return out;
    }

    private boolean convert(double value) {
      if (!Double.isFinite(value)) {
        return false;
      }
      if (Numbers.isWhole(type)) {
        long whole = (long) value;
        number.set(whole >> 63, whole);
        return value > -0x1.0p63 - 1 && value < 0x1.0p63 && fits(number);
      }
      String text = of.type == Types.REAL ? Float.toString((float) value) : Double.toString(value);
      BigDecimal exact = new BigDecimal(text).setScale(Numbers.scale(type), RoundingMode.HALF_UP);
      return number.set(exact.unscaledValue()) && fits(number);
    }
  }

  /** Dates, times and timestamps of one another, those with a zone in UTC. */
  private static final class OfTime extends Kernel {
    private final Kernel of;

    OfTime(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.LONGS, from);
      boolean fromDate = of.type == Types.DATE;
      boolean toDate = type == Types.DATE;
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          long value = from.longs[i];
          if (type == Types.TIME) {
            value = Math.floorMod(value, TimeKernels.DAY);
          } else if (toDate && !fromDate) {
            value = Math.floorDiv(value, TimeKernels.DAY);
          } else if (fromDate && !toDate) {
            long micros = value * TimeKernels.DAY;
            if (Math.multiplyHigh(value, TimeKernels.DAY) != micros >> 63) {
              throw failure(i, from.show(i, of.type) + " does not fit " + type);
            }
            value = micros;
          }
          out.longs[i] = value;
        }
      }
      return out;
    }
  }
}
