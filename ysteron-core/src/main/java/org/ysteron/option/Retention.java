package org.ysteron.option;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.time.temporal.TemporalAdjusters;
import java.time.temporal.TemporalAmount;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.OptionalInt;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;

/**
 * Which versions of a table are kept: those that any of its rules keeps, the newest one, and those
 * that a bookmark or another hold names. A version serves the time from its commit to the next
 * one's; its age counts from when it was superseded. Without rules all versions are kept.
 * Immutable.
 *
 * @param span versions superseded no longer ago than this are kept
 * @param newest so many of the newest versions are kept
 * @param thinning of older versions, those that were current at instants of the calendar are kept
 */
public record Retention(Optional<TemporalAmount> span, OptionalInt newest, List<Thinned> thinning) {
  private static final Period LONGEST = Period.ofYears(9_999);
  private static final Instant EARLIEST = before(Instant.EPOCH, LONGEST);

  /** All versions are kept. */
  public static final Retention EVERYTHING =
      new Retention(Optional.empty(), OptionalInt.empty(), List.of());

  /**
   * Checks that the rules keep something.
   *
   * @throws InvalidInputException when one keeps nothing
   */
  public Retention {
    thinning = List.copyOf(thinning);
    span.ifPresent(Retention::check);
    newest.ifPresent(
        count -> {
          if (count < 1) {
            throw new InvalidInputException(
                "At least the newest version is kept; %d versions cannot be kept. Give 1 or more."
                    .formatted(count));
          }
        });
  }

  /** Steps of the calendar, each of which begins at an instant in UTC that all tables share. */
  public enum Step {
    HOUR,
    DAY,
    /** From Monday on. */
    WEEK,
    MONTH,
    YEAR;

    /** The last instant of the grid that is not after a time. */
    public Instant atOrBefore(Instant time) {
      ZonedDateTime utc = time.atZone(ZoneOffset.UTC);
      ZonedDateTime day = utc.truncatedTo(ChronoUnit.DAYS);
      return switch (this) {
        case HOUR -> utc.truncatedTo(ChronoUnit.HOURS).toInstant();
        case DAY -> day.toInstant();
        case WEEK -> day.with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY)).toInstant();
        case MONTH -> day.withDayOfMonth(1).toInstant();
        case YEAR -> day.withDayOfYear(1).toInstant();
      };
    }

    /** {@code day}. */
    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }

    private static Step parse(String word) {
      return Arrays.stream(values())
          .filter(step -> step.word().equals(word))
          .findFirst()
          .orElseThrow(
              () ->
                  new InvalidInputException(
                      "\"%s\" is not a calendar step; give hour, day, week, month or year."
                          .formatted(word)));
    }
  }

  /**
   * A rule that thins versions out.
   *
   * @param each one version is kept for each of these steps
   * @param span steps that began no longer ago than this count
   */
  public record Thinned(Step each, TemporalAmount span) {
    public Thinned {
      check(span);
    }

    @Override
    public String toString() {
      return each.word() + " " + span;
    }
  }

  /**
   * Makes sure that a time is not below zero, nor so long that no calendar has it.
   *
   * @return the instant so much before the epoch
   * @throws InvalidInputException when it is
   */
  public static Instant checkNotNegative(TemporalAmount span) {
    Instant then;
    try {
      then = before(Instant.EPOCH, span);
    } catch (DateTimeException | ArithmeticException e) {
      throw tooLong(span, e);
    }
    if (then.isBefore(EARLIEST)) {
      throw tooLong(span, null);
    }
    if (then.isAfter(Instant.EPOCH)) {
      throw new InvalidInputException(
          "The duration %s is negative. Give one such as P7D.".formatted(span));
    }
    return then;
  }

  private static InvalidInputException tooLong(TemporalAmount span, @Nullable Throwable cause) {
    return new InvalidInputException(
        "The duration %s is too long; the limit is %s.".formatted(span, LONGEST), cause);
  }

  private static void check(TemporalAmount span) {
    if (checkNotNegative(span).equals(Instant.EPOCH)) {
      throw new InvalidInputException(
          "The duration %s is not above zero. Give one such as P7D, or keep a number of newest versions instead."
              .formatted(span));
    }
  }

  /** An instant so much before another, months and years being those of the calendar in UTC. */
  public static Instant before(Instant time, TemporalAmount span) {
    return time.atZone(ZoneOffset.UTC).minus(span).toInstant();
  }

  /** Also versions superseded no longer ago than this. */
  public Retention andFor(TemporalAmount time) {
    return new Retention(Optional.of(time), newest, thinning);
  }

  /** Also so many of the newest versions. */
  public Retention andNewest(int count) {
    return new Retention(span, OptionalInt.of(count), thinning);
  }

  /**
   * Also the version that was current at the beginning of each of these steps of the calendar.
   *
   * @param time steps that began no longer ago than this
   */
  public Retention andOneEach(Step each, TemporalAmount time) {
    List<Thinned> more = new ArrayList<>(thinning);
    more.add(new Thinned(each, time));
    return new Retention(span, newest, more);
  }

  /** Whether it keeps all versions, having no rule. */
  public boolean keepsEverything() {
    return span.isEmpty() && newest.isEmpty() && thinning.isEmpty();
  }

  /** Whether it has a rule that looks at times. */
  public boolean looksAtTimes() {
    return span.isPresent() || !thinning.isEmpty();
  }

  /**
   * Whether a version is kept for the time that it served.
   *
   * @param from when it was made
   * @param to when it was superseded
   * @param now what is the newest time
   */
  public boolean keeps(Instant from, Instant to, Instant now) {
    if (span.filter(time -> !to.isBefore(before(now, time))).isPresent()) {
      return true;
    }
    for (Thinned rule : thinning) {
      // The last beginning of a step that it was current at.
      Instant last = rule.each.atOrBefore(to.minusNanos(1));
      if (!last.isBefore(from) && !last.isBefore(before(now, rule.span))) {
        return true;
      }
    }
    return false;
  }

  /**
   * A time above zero as ISO 8601 has it.
   *
   * @throws InvalidInputException when it is none, or zero, or too long
   */
  public static TemporalAmount parsePositive(String text) {
    TemporalAmount span = parseSpan(text);
    check(span);
    return span;
  }

  /**
   * A time as ISO 8601 has it, such as {@code P7D}, {@code P3M} or {@code PT12H}.
   *
   * @throws InvalidInputException when it is none
   */
  public static TemporalAmount parseSpan(String text) {
    try {
      return Period.parse(text);
    } catch (DateTimeParseException e) {
      try {
        return Duration.parse(text);
      } catch (DateTimeParseException also) {
        throw new InvalidInputException(
            "\"%s\" is not an ISO 8601 duration, such as P7D, P3M or PT12H.".formatted(text), also);
      }
    }
  }

  /**
   * Rules that thin out, as settings have them: {@code day P1M, week P1Y}.
   *
   * @throws InvalidInputException when they are none
   */
  public static List<Thinned> parseThinning(String text) {
    List<Thinned> rules = new ArrayList<>();
    for (String rule : text.isBlank() ? new String[0] : text.split(",", -1)) {
      String[] parts = rule.trim().split("\\s+", -1);
      if (parts.length != 2) {
        throw new InvalidInputException(
            "\"%s\" is not a thinning rule; give a calendar step and a duration, such as day P1M."
                .formatted(rule.trim()));
      }
      rules.add(new Thinned(Step.parse(parts[0].toLowerCase(Locale.ROOT)), parseSpan(parts[1])));
    }
    return rules;
  }

  /**
   * The rules in words: {@code all of the last P7D, the newest 10, one each day of the last P1M}.
   */
  @Override
  public String toString() {
    List<String> rules = new ArrayList<>();
    span.ifPresent(time -> rules.add("all of the last " + time));
    newest.ifPresent(count -> rules.add("the newest " + count));
    thinning.forEach(
        rule -> rules.add("one each %s of the last %s".formatted(rule.each.word(), rule.span)));
    return rules.isEmpty() ? "everything" : String.join(", ", rules);
  }
}
