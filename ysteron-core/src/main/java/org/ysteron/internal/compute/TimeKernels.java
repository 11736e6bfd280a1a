package org.ysteron.internal.compute;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;

/**
 * Dates, times and intervals, in days and microseconds, by the calendar of ISO 8601. The
 * conversions between days and dates are those of Howard Hinnant, "chrono-Compatible Low-Level Date
 * Algorithms" (2013).
 */
final class TimeKernels {
  static final long DAY = 86_400_000_000L;
  private static final long HOUR = 3_600_000_000L;
  private static final long MINUTE = 60_000_000L;
  private static final long SECOND = 1_000_000L;
  private static final int DAYS_OF_ERA = 146_097;
  private static final int YEARS_OF_ERA = 400;
  private static final int DAYS_TO_EPOCH = 719_468;

  private TimeKernels() {}

  /** The month, counted from the year 0, of a day; what is left is its day of the month, from 0. */
  static long month(long day) {
    long shifted = day + DAYS_TO_EPOCH;
    long era = Math.floorDiv(shifted, (long) DAYS_OF_ERA);
    long ofEra = shifted - era * DAYS_OF_ERA;
    long yearOfEra = (ofEra - ofEra / 1460 + ofEra / 36_524 - ofEra / 146_096) / 365;
    long ofYear = ofEra - (365 * yearOfEra + yearOfEra / 4 - yearOfEra / 100);
    long march = (5 * ofYear + 2) / 153;
    long year = yearOfEra + era * YEARS_OF_ERA;
    return march < 10 ? year * 12 + march + 2 : (year + 1) * 12 + march - 10;
  }

  /** The first day of a month, counted from the year 0. */
  static long firstDay(long month) {
    long year = Math.floorDiv(month, 12L);
    long ofYear = month - year * 12;
    long march = ofYear < 2 ? ofYear + 10 : ofYear - 2;
    long shifted = ofYear < 2 ? year - 1 : year;
    long era = Math.floorDiv(shifted, (long) YEARS_OF_ERA);
    long yearOfEra = shifted - era * YEARS_OF_ERA;
    long dayOfYear = (153 * march + 2) / 5;
    long ofEra = yearOfEra * 365 + yearOfEra / 4 - yearOfEra / 100 + dayOfYear;
    return era * DAYS_OF_ERA + ofEra - DAYS_TO_EPOCH;
  }

  /** EXTRACT, and the beginning and end of units. */
  static final class Part extends Kernel {
    private final TimePart.Kind kind;
    private final TimeUnit unit;
    private final Kernel of;
    private final boolean isDate;

    Part(TimePart.Kind kind, TimeUnit unit, Kernel of, Type type) {
      super(type);
      this.kind = kind;
      this.unit = unit;
      this.of = of;
      this.isDate = of.type == Types.DATE;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.LONGS, from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          long value = from.longs[i];
          out.longs[i] = kind == TimePart.Kind.EXTRACT ? extract(value) : begin(value, from, i);
        }
      }
      return out;
    }

    private long extract(long value) {
      long day = isDate ? value : Math.floorDiv(value, DAY);
      long time = isDate ? 0 : value - day * DAY;
      return switch (unit) {
        case YEAR -> Math.floorDiv(month(day), 12L);
        case QUARTER -> Math.floorMod(month(day), 12L) / 3 + 1;
        case MONTH -> Math.floorMod(month(day), 12L) + 1;
        case WEEK -> week(day);
        case DAY -> day - firstDay(month(day)) + 1;
        case HOUR -> time / HOUR;
        case MINUTE -> time / MINUTE % 60;
        case SECOND -> time % MINUTE;
      };
    }

    /** The week of ISO 8601: the first of a year has its first Thursday. */
    private static long week(long day) {
      long thursday = Math.floorDiv(day + 3, 7L) * 7;
      long january = firstDay(Math.floorDiv(month(thursday), 12L) * 12);
      return (thursday - january) / 7 + 1;
    }

    private long begin(long value, Held from, int row) {
      long floor;
      try {
        floor = floor(value);
        if (kind == TimePart.Kind.FLOOR || floor == value) {
          return inRange(floor, from, row);
        }
        return inRange(next(floor), from, row);
      } catch (ArithmeticException e) {
        throw outOfRange(from, row);
      }
    }

    private long inRange(long value, Held from, int row) {
      boolean fits =
          isDate ? value == (int) value : type != Types.TIME || (value >= 0 && value < DAY);
      if (!fits) {
        throw outOfRange(from, row);
      }
      return value;
    }

    private ComputeException outOfRange(Held from, int row) {
      return failure(
          row, kind + "(" + from.show(row, type) + " TO " + unit + ") does not fit " + type);
    }

    private long floor(long value) {
      long day = isDate ? value : Math.floorDiv(value, DAY);
      return switch (unit) {
        case YEAR -> days(firstDay(Math.floorDiv(month(day), 12L) * 12));
        case QUARTER -> days(firstDay(Math.floorDiv(month(day), 3L) * 3));
        case MONTH -> days(firstDay(month(day)));
        case WEEK -> days(Math.floorDiv(day + 3, 7L) * 7 - 3);
        case DAY -> days(day);
        case HOUR -> down(value, HOUR);
        case MINUTE -> down(value, MINUTE);
        case SECOND -> down(value, SECOND);
      };
    }

    private static long down(long value, long step) {
      return Math.multiplyExact(Math.floorDiv(value, step), step);
    }

    private long days(long day) {
      return isDate ? day : Math.multiplyExact(day, DAY);
    }

    private long next(long floor) {
      long day = isDate ? floor : Math.floorDiv(floor, DAY);
      return switch (unit) {
        case YEAR -> days(firstDay(month(day) + 12));
        case QUARTER -> days(firstDay(month(day) + 3));
        case MONTH -> days(firstDay(month(day) + 1));
        case WEEK -> days(day + 7);
        case DAY -> days(day + 1);
        case HOUR -> Math.addExact(floor, HOUR);
        case MINUTE -> Math.addExact(floor, MINUTE);
        case SECOND -> Math.addExact(floor, SECOND);
      };
    }
  }

  /** A date or time and an interval, two times, two intervals, an interval so many times. */
  static final class Moved extends Kernel {
    private final Operator operator;
    private final Kernel left;
    private final Kernel right;

    Moved(Operator operator, Kernel left, Kernel right, Type type) {
      super(type);
      this.operator = operator;
      this.left = left;
      this.right = right;
    }

    @Override
    public Held eval(Rows rows) {
      Held one = left.eval(rows);
      Held other = right.eval(rows);
      out.begin(rows, Held.Form.LONGS, one, other);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          try {
            out.longs[i] = compute(one.longs[i], other.longs[i]);
          } catch (ArithmeticException e) {
            throw failure(
                i,
                "%s %s %s does not fit %s"
                    .formatted(
                        one.show(i, left.type), operator.sql(), other.show(i, right.type), type));
          }
        }
      }
      return out;
    }

    private long compute(long one, long other) {
      if (operator == Operator.MULTIPLY) {
        return fits(Math.multiplyExact(one, other));
      }
      boolean adds = operator == Operator.ADD;
      if (type instanceof Type.Interval) {
        boolean days = left.type == Types.DATE;
        long sum = adds ? Math.addExact(one, other) : Math.subtractExact(one, other);
        return fits(days ? Math.multiplyExact(sum, DAY) : sum);
      }
      boolean turned = left.type instanceof Type.Interval;
      long time = turned ? other : one;
      long by = adds ? (turned ? one : other) : Math.negateExact(other);
      Type interval = turned ? left.type : right.type;
      return interval == Type.Interval.MONTHS ? months(time, by) : micros(time, by);
    }

    private long fits(long value) {
      if (type == Type.Interval.MONTHS && value != (int) value) {
        throw new ArithmeticException("months");
      }
      return value;
    }

    /** Days of a date; of a time, the rest of a day, as ISO says. */
    private long micros(long time, long by) {
      if (type == Types.DATE) {
        if (by % DAY != 0) {
          throw new ArithmeticException("a date has no hours");
        }
        return date(Math.addExact(time, by / DAY));
      }
      if (type == Types.TIME) {
        return Math.floorMod(time + by % DAY, DAY);
      }
      return Math.addExact(time, by);
    }

    private static long date(long day) {
      if (day != (int) day) {
        throw new ArithmeticException("date");
      }
      return day;
    }

    /** The same day of another month, or the last one of a shorter month. */
    private long months(long time, long by) {
      boolean isDate = type == Types.DATE;
      long day = isDate ? time : Math.floorDiv(time, DAY);
      DayOfMonth parts = new DayOfMonth(day);
      long month = Math.addExact(parts.month, by);
      if (Math.abs(month) > 12L * java.time.Year.MAX_VALUE) {
        throw new ArithmeticException("year");
      }
      long length = firstDay(month + 1) - firstDay(month);
      long moved = firstDay(month) + Math.min(parts.day, length - 1);
      return isDate ? date(moved) : Math.addExact(Math.multiplyExact(moved, DAY), time - day * DAY);
    }
  }

  /** The month of a day and its day of the month, from 0. */
  private record DayOfMonth(long month, long day) {
    DayOfMonth(long epochDay) {
      this(TimeKernels.month(epochDay), epochDay - firstDay(TimeKernels.month(epochDay)));
    }
  }
}
