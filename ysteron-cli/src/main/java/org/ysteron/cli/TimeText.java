package org.ysteron.cli;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;

/** Times as options take them. */
final class TimeText {
  private TimeText() {}

  /**
   * The time that is meant: one of its own, or a duration back from now.
   *
   * @param given the zone of a time without one; null for this machine's
   */
  static Instant of(CommandSpec spec, String option, String at, ZoneId given) {
    Instant now = Instant.now();
    ZoneId zone = given == null ? ZoneId.systemDefault() : given;
    try {
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
    } catch (DateTimeException e) {
      throw wrong(spec, option, at, e);
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
