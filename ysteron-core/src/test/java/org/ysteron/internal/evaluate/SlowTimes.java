package org.ysteron.internal.evaluate;

import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.time.temporal.ChronoField;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.time.temporal.Temporal;
import java.time.temporal.TemporalAdjusters;
import org.ysteron.data.Type;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.typing.Typed;

/** Dates, times and intervals as the JDK computes with them. */
final class SlowTimes {
  private SlowTimes() {}

  static Object computed(Operator operator, Type type, Object one, Object two) {
    if (operator == Operator.MULTIPLY) {
      Object interval = one instanceof Number ? two : one;
      long by = SlowEvaluator.number(one instanceof Number ? one : two);
      return interval instanceof Period p
          ? Period.ofMonths(Math.toIntExact(Math.multiplyExact(p.toTotalMonths(), by)))
          : Duration.of(
              Math.multiplyExact(
                  ChronoUnit.MICROS.between(Instant.EPOCH, Instant.EPOCH.plus((Duration) interval)),
                  by),
              ChronoUnit.MICROS);
    }
    boolean adds = operator == Operator.ADD;
    if (type == Type.Interval.MONTHS) {
      long sum = ((Period) one).toTotalMonths() + (adds ? 1 : -1) * ((Period) two).toTotalMonths();
      return Period.ofMonths(Math.toIntExact(sum));
    }
    if (type instanceof Type.Interval) {
      if (one instanceof Duration a) {
        return micros(adds ? a.plus((Duration) two) : a.minus((Duration) two));
      }
      if (one instanceof LocalDate a) {
        return micros(Duration.ofDays(ChronoUnit.DAYS.between((LocalDate) two, a)));
      }
      return micros(Duration.between((Temporal) two, (Temporal) one));
    }
    Object time = one instanceof Temporal ? one : two;
    Object interval = one instanceof Temporal ? two : one;
    if (interval instanceof Period months) {
      long by = adds ? months.toTotalMonths() : -months.toTotalMonths();
      if (time instanceof LocalDate date) {
        return SlowEvaluator.accepted(date.plusMonths(by), type);
      }
      LocalDateTime local =
          time instanceof Instant instant
              ? LocalDateTime.ofInstant(instant, ZoneOffset.UTC)
              : (LocalDateTime) time;
      LocalDateTime moved = local.plusMonths(by);
      return SlowEvaluator.accepted(
          time instanceof Instant ? (Object) moved.toInstant(ZoneOffset.UTC) : moved, type);
    }
    Duration by = adds ? (Duration) interval : ((Duration) interval).negated();
    if (time instanceof LocalDate date) {
      if (!by.equals(Duration.ofDays(by.toDays()))) {
        throw new SlowEvaluator.Failure("a date has no hours");
      }
      return SlowEvaluator.accepted(date.plusDays(by.toDays()), type);
    }
    return SlowEvaluator.accepted(((Temporal) time).plus(by), type);
  }

  static Duration micros(Duration duration) {
    long seconds = duration.getSeconds();
    Math.addExact(Math.multiplyExact(seconds, 1_000_000L), duration.getNano() / 1000);
    return duration;
  }

  static Object extract(Object time, TimeUnit unit) {
    Temporal of =
        time instanceof Instant instant
            ? LocalDateTime.ofInstant(instant, ZoneOffset.UTC)
            : (Temporal) time;
    return switch (unit) {
      case YEAR -> of.get(ChronoField.YEAR);
      case QUARTER -> of.get(IsoFields.QUARTER_OF_YEAR);
      case MONTH -> of.get(ChronoField.MONTH_OF_YEAR);
      case WEEK -> of.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR);
      case DAY -> of.get(ChronoField.DAY_OF_MONTH);
      case HOUR -> of.get(ChronoField.HOUR_OF_DAY);
      case MINUTE -> of.get(ChronoField.MINUTE_OF_HOUR);
      case SECOND ->
          BigDecimal.valueOf(
              of.get(ChronoField.SECOND_OF_MINUTE) * 1_000_000L
                  + of.get(ChronoField.MICRO_OF_SECOND),
              6);
    };
  }

  static Object rounded(Object time, Typed.OfTime part) {
    Object floor = floor(time, part.unit());
    if (part.kind() == TimePart.Kind.FLOOR || floor.equals(time)) {
      return SlowEvaluator.accepted(floor, part.type());
    }
    Object next = next(floor, part.unit());
    if (time instanceof LocalTime && LocalTime.MIDNIGHT.equals(next)) {
      throw new SlowEvaluator.Failure("24:00");
    }
    return SlowEvaluator.accepted(next, part.type());
  }

  private static Object floor(Object time, TimeUnit unit) {
    if (time instanceof Instant instant) {
      LocalDateTime local = LocalDateTime.ofInstant(instant, ZoneOffset.UTC);
      return ((LocalDateTime) floor(local, unit)).toInstant(ZoneOffset.UTC);
    }
    if (time instanceof LocalTime of) {
      return of.truncatedTo(ChronoUnit.valueOf(unit.name() + "S"));
    }
    if (time instanceof LocalDateTime of) {
      return unit.compareTo(TimeUnit.DAY) >= 0
          ? of.truncatedTo(ChronoUnit.valueOf(unit.name() + "S"))
          : ((LocalDate) floor(of.toLocalDate(), unit)).atStartOfDay();
    }
    LocalDate date = (LocalDate) time;
    return switch (unit) {
      case YEAR -> date.withDayOfYear(1);
      case QUARTER -> date.withDayOfMonth(1).withMonth((date.getMonthValue() - 1) / 3 * 3 + 1);
      case MONTH -> date.withDayOfMonth(1);
      case WEEK -> date.with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY));
      default -> date;
    };
  }

  private static Object next(Object floor, TimeUnit unit) {
    if (floor instanceof Instant instant) {
      LocalDateTime local = LocalDateTime.ofInstant(instant, ZoneOffset.UTC);
      return ((LocalDateTime) next(local, unit)).toInstant(ZoneOffset.UTC);
    }
    return unit == TimeUnit.QUARTER
        ? ((Temporal) floor).plus(3, ChronoUnit.MONTHS)
        : ((Temporal) floor).plus(1, ChronoUnit.valueOf(unit.name() + "S"));
  }
}
