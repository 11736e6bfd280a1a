package org.ysteron.cli;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import org.ysteron.Table;
import org.ysteron.TableView;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;

/** Times as options take them. */
final class TimeText {
  /** A clock may be ahead of another by less. */
  private static final Duration AHEAD = Duration.ofDays(1);

  private TimeText() {}

  /**
   * The time that is meant: one of its own, or a duration back from now.
   *
   * @param given the zone of a time without one; null for this machine's
   */
  static Instant of(CommandSpec spec, String option, String at, ZoneId given) {
    Instant now = Instant.now();
    Instant meant;
    ZoneId zone = given == null ? ZoneId.systemDefault() : given;
    try {
      meant = read(at, now, zone);
    } catch (DateTimeException | ArithmeticException | IndexOutOfBoundsException e) {
      throw wrong(spec, option, at, e);
    }
    if (meant.isAfter(now.plus(AHEAD))) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "Invalid value for option '%s': '%s' is in the future".formatted(option, at));
    }
    return meant;
  }

  private static Instant read(String at, Instant now, ZoneId zone) {
    if (at.startsWith("PT")) {
      return now.minus(Duration.parse(at));
    }
    if (at.startsWith("P")) {
      int split = at.indexOf('T');
      Period days = Period.parse(split < 0 ? at : at.substring(0, split));
      Duration rest = split < 0 ? Duration.ZERO : Duration.parse("P" + at.substring(split));
      return ZonedDateTime.ofInstant(now, zone).minus(days).minus(rest).toInstant();
    }
    if (at.endsWith("]")) {
      int open = at.indexOf('[');
      ZoneId own = ZoneId.of(at.substring(open + 1, at.length() - 1));
      return LocalDateTime.parse(at.substring(0, open)).atZone(own).toInstant();
    }
    if (at.matches(".*T.*(Z|[+-][0-9:]+)$")) {
      return OffsetDateTime.parse(at).toInstant();
    }
    String local = at.indexOf('T') < 0 ? at + "T00:00" : at;
    return LocalDateTime.parse(local).atZone(zone).toInstant();
  }

  /** The version of a table that is meant by a number, a time, a duration or a bookmark. */
  static TableView view(CommandSpec spec, String option, String at, ZoneId zone, Table table) {
    if (isBookmark(at)) {
      return table.atBookmark(at.substring(1));
    }
    return isVersion(at)
        ? table.at(version(spec, option, at))
        : table.at(of(spec, option, at, zone));
  }

  /** A duration as an option takes it. */
  static Duration duration(String text) {
    try {
      Duration duration = Duration.parse(text);
      if (!duration.isNegative()) {
        return duration;
      }
    } catch (DateTimeException | ArithmeticException e) {
      // told below
    }
    throw new CommandLine.TypeConversionException(
        "'%s' is no duration; give one as in PT10M or PT2H30M".formatted(text));
  }

  /** A time zone as an option takes it. */
  static ZoneId zone(String text) {
    try {
      return ZoneId.of(text);
    } catch (DateTimeException e) {
      throw new CommandLine.TypeConversionException(
          "'%s' is no time zone; give one as in Europe/Oslo, +02:00 or UTC".formatted(text));
    }
  }

  /** Whether a text is the number of a version. */
  static boolean isVersion(String text) {
    return text.matches("[0-9]+");
  }

  /** Whether a text is the name of a bookmark, behind an {@code @}. */
  static boolean isBookmark(String text) {
    return text.startsWith("@");
  }

  /** The number of a version. */
  static long version(CommandSpec spec, String option, String text) {
    try {
      return Long.parseLong(text);
    } catch (NumberFormatException e) {
      throw wrong(spec, option, text, e);
    }
  }

  static CommandLine.ParameterException wrong(
      CommandSpec spec, String option, String text, Exception cause) {
    return new CommandLine.ParameterException(
        spec.commandLine(),
        "Invalid value for option '%s': '%s' is no version, no time, no duration and no @bookmark"
            .formatted(option, text),
        cause);
  }
}
