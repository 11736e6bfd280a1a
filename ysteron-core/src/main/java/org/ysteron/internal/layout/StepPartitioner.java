package org.ysteron.internal.layout;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Arrays;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.internal.filter.Ordered;

/** Ranges of equal steps. */
final class StepPartitioner extends Partitioner {
  private final PartitionRule.Every rule;

  StepPartitioner(PartitionRule.Every rule, int partId, Type type) {
    super(rule.fieldId(), partId, type);
    this.rule = rule;
  }

  @Override
  long part(long held) {
    if (rule.unit() == ChronoUnit.FOREVER) {
      return ofNumber(held);
    }
    long step = rule.step();
    if (rule.unit() == ChronoUnit.HOURS || rule.unit() == ChronoUnit.MINUTES) {
      long minutes = Math.floorDiv(held, MICROS_A_MINUTE);
      return Math.floorDiv(minutes, rule.unit() == ChronoUnit.HOURS ? 60 * step : step);
    }
    long day = type == Types.DATE ? held : Math.floorDiv(held, MICROS_A_DAY);
    if (rule.unit() == ChronoUnit.DAYS) {
      return Math.floorDiv(day, step);
    }
    long bounded = Math.max(LocalDate.MIN.toEpochDay(), Math.min(LocalDate.MAX.toEpochDay(), day));
    LocalDate date = LocalDate.ofEpochDay(bounded);
    return rule.unit() == ChronoUnit.YEARS
        ? Math.floorDiv((long) date.getYear(), step)
        : Math.floorDiv((date.getYear() - 1970L) * 12 + date.getMonthValue() - 1, step);
  }

  private long ofNumber(long held) {
    if (Ordered.isFloating(type)) {
      double value = Ordered.toDouble(held);
      if (Double.isNaN(value)) {
        return held < 0 ? Long.MIN_VALUE : Long.MAX_VALUE; // below and above all numbers
      }
      return (long) Math.floor(value / rule.step());
    }
    if (!(type instanceof Type.Decimal decimal)) {
      return Math.floorDiv(held, rule.step());
    }
    return ofDecimal(BigDecimal.valueOf(held, decimal.scale()));
  }

  private long ofDecimal(BigDecimal value) {
    BigInteger part =
        value.divide(BigDecimal.valueOf(rule.step()), 0, RoundingMode.FLOOR).toBigInteger();
    return part.bitLength() < Long.SIZE
        ? part.longValue()
        : part.signum() < 0 ? Long.MIN_VALUE : Long.MAX_VALUE;
  }

  @Override
  long part(byte[] bytes) {
    return ofDecimal((BigDecimal) Values.fromBytes(bytes, 0, bytes.length, type));
  }

  @Override
  public Optional<Span> parts(long low, long high) {
    return Optional.of(new Span(part(low), part(high)));
  }

  @Override
  public Optional<Span> parts(byte[] low, byte[] high) {
    boolean whole = low.length >= 16 && (high == null || high.length >= 16);
    return whole
        ? Optional.of(
            new Span(
                part(Arrays.copyOf(low, 16)),
                high == null ? Long.MAX_VALUE : part(Arrays.copyOf(high, 16))))
        : Optional.empty();
  }

  @Override
  public Optional<String> show(long part) {
    return Optional.of(shown(part));
  }

  private String shown(long part) {
    long start = part * rule.step();
    return switch (rule.unit()) {
      case YEARS -> String.valueOf(start);
      case MONTHS -> LocalDate.EPOCH.plusMonths(start).toString().substring(0, 7);
      case DAYS -> LocalDate.ofEpochDay(start).toString();
      case HOURS -> time(start * 60).substring(0, 13);
      case MINUTES -> time(start);
      default -> "[%d, %d)".formatted(start, start + rule.step());
    };
  }

  private static String time(long minutes) {
    return LocalDateTime.ofEpochSecond(minutes * 60, 0, ZoneOffset.UTC).toString();
  }
}
