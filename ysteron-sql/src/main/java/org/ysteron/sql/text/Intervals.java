package org.ysteron.sql.text;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.Period;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.apache.calcite.avatica.util.TimeUnit;
import org.apache.calcite.sql.SqlIntervalLiteral;
import org.apache.calcite.sql.SqlIntervalQualifier;

/** Interval literals of ISO SQL, such as {@code INTERVAL '1 12:30' DAY TO MINUTE}. */
final class Intervals {
  private static final List<TimeUnit> UNITS =
      List.of(TimeUnit.DAY, TimeUnit.HOUR, TimeUnit.MINUTE, TimeUnit.SECOND);
  private static final long[] MICROS = {86_400_000_000L, 3_600_000_000L, 60_000_000L, 1_000_000L};
  private static final Pattern NUMBER = Pattern.compile("\\d{1,18}");
  private static final Pattern SECONDS = Pattern.compile("\\d{1,18}(\\.\\d{0,6})?");
  private static final Pattern MONTHS = Pattern.compile("(\\d{1,9})-(\\d{1,2})");

  private Intervals() {}

  /** A {@link Period} of months, or a {@link Duration} of microseconds. */
  static Object amount(SqlIntervalLiteral literal, SqlText text) {
    var value = (SqlIntervalLiteral.IntervalValue) literal.getValue();
    String written = value.getIntervalLiteral().strip();
    int sign = value.getSign();
    if (written.startsWith("-") || written.startsWith("+")) {
      sign = written.startsWith("-") ? -sign : sign;
      written = written.substring(1).strip();
    }
    try {
      return amount(value.getIntervalQualifier(), written, sign);
    } catch (IllegalArgumentException | ArithmeticException e) {
      throw text.wrong(
          "This is not an interval of that unit. Intervals are written as in INTERVAL '1' HOUR or INTERVAL '1 12:30' DAY TO MINUTE.",
          literal.getParserPosition(),
          e);
    }
  }

  private static Object amount(SqlIntervalQualifier qualifier, String written, int sign) {
    TimeUnit first = qualifier.getStartUnit();
    TimeUnit last =
        qualifier.timeUnitRange.endUnit == null ? first : qualifier.timeUnitRange.endUnit;
    if (first == TimeUnit.YEAR || first == TimeUnit.MONTH) {
      return months(first, last, written, sign);
    }
    int from = UNITS.indexOf(first);
    int to = UNITS.indexOf(last);
    if (from < 0 || to < 0) {
      throw new IllegalArgumentException("unit");
    }
    String[] parts = written.split("[ :]+", -1);
    if (parts.length != to - from + 1) {
      throw new IllegalArgumentException("fields");
    }
    long micros = 0;
    for (int i = 0; i < parts.length; i++) {
      int unit = from + i;
      boolean seconds = unit == UNITS.size() - 1;
      if (!(seconds ? SECONDS : NUMBER).matcher(parts[i]).matches()) {
        throw new IllegalArgumentException("number");
      }
      long amount =
          seconds
              ? new BigDecimal(parts[i]).movePointRight(6).longValueExact()
              : Math.multiplyExact(Long.parseLong(parts[i]), MICROS[unit]);
      micros = Math.addExact(micros, amount);
    }
    return Duration.of(sign * micros, ChronoUnit.MICROS);
  }

  private static Period months(TimeUnit first, TimeUnit last, String written, int sign) {
    if (first != last) {
      Matcher both = MONTHS.matcher(written);
      if (!both.matches()) {
        throw new IllegalArgumentException("months");
      }
      int months =
          Math.addExact(
              Math.multiplyExact(12, Integer.parseInt(both.group(1))),
              Integer.parseInt(both.group(2)));
      return Period.ofMonths(sign * months);
    }
    if (!NUMBER.matcher(written).matches()) {
      throw new IllegalArgumentException("number");
    }
    int count = Math.toIntExact(Long.parseLong(written));
    return Period.ofMonths(sign * (first == TimeUnit.YEAR ? Math.multiplyExact(12, count) : count));
  }
}
