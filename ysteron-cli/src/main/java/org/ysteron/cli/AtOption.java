package org.ysteron.cli;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Optional;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.TableView;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Which version a command looks at. */
final class AtOption {
  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec;

  @Option(
      names = "--at",
      paramLabel = "VERSION|TIME",
      description = {
        "The version to look at: a number; a time, as in 2026-03-01T12:00:00Z or",
        "2026-03-01T12:00[Europe/Oslo]; or an ISO 8601 duration back from now, as in PT2H or P7D."
      })
  private String at;

  @Option(
      names = "--zone",
      paramLabel = "ZONE",
      description = "The time zone of a time without one (default: this machine's).")
  private ZoneId zone;

  TableView view(Lake lake, String table) {
    Table found = lake.table(table);
    if (at == null) {
      return found.now();
    }
    if (at.matches("[0-9]+")) {
      try {
        return found.at(Long.parseLong(at));
      } catch (NumberFormatException e) {
        throw wrong(e);
      }
    }
    return found.at(time(Instant.now()));
  }

  /** The time that was asked for; empty when none was. */
  Optional<Instant> time() {
    return at == null ? Optional.empty() : Optional.of(time(Instant.now()));
  }

  private Instant time(Instant now) {
    try {
      if (at.startsWith("PT")) {
        return now.minus(Duration.parse(at));
      }
      if (at.startsWith("P")) {
        int split = at.indexOf('T');
        Period days = Period.parse(split < 0 ? at : at.substring(0, split));
        Duration rest = split < 0 ? Duration.ZERO : Duration.parse("P" + at.substring(split));
        return ZonedDateTime.ofInstant(now, zone()).minus(days).minus(rest).toInstant();
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
      return LocalDateTime.parse(local).atZone(zone()).toInstant();
    } catch (DateTimeException e) {
      throw wrong(e);
    }
  }

  private ZoneId zone() {
    return zone == null ? ZoneId.systemDefault() : zone;
  }

  private CommandLine.ParameterException wrong(Exception cause) {
    return new CommandLine.ParameterException(
        spec.commandLine(),
        "Invalid value for option '--at': '%s' is no version, no time and no duration"
            .formatted(at),
        cause);
  }
}
