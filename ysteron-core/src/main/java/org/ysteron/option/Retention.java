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
 * Which versions of a table expiry keeps: those that any of the rules keeps, the newest version,
 * and those that a bookmark or another hold names. The age of a version counts from its successor's
 * commit. Without rules all versions are kept. Immutable.
 *
 * @param span keeps versions that were superseded within this time
 * @param newest keeps this number of newest versions
 * @param thinning keeps, of older versions, those that were current at calendar steps
 */
public record Retention(Optional<TemporalAmount> span, OptionalInt newest, List<Thinned> thinning) {
  private static final Period LONGEST = Period.ofYears(9_999);
  private static final Instant EARLIEST = before(Instant.EPOCH, LONGEST);

  /** All versions are kept. */
  public static final Retention EVERYTHING =
      new Retention(Optional.empty(), OptionalInt.empty(), List.of());

  /**
   * Checks the rules.
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

  /** Calendar steps, in UTC. */
  public enum Step {
    HOUR,
    DAY,
    /** Starts on Monday. */
    WEEK,
    MONTH,
    YEAR;

    /** The start of the step that contains a time. */
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
   * A thinning rule.
   *
   * @param each one version per step is kept
   * @param span the rule applies to steps that started within this time
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
   * Checks that a duration is neither negative nor too long.
   *
   * @return the instant this long before the epoch
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

  /** The instant a duration before another, with calendar months and years in UTC. */
  public static Instant before(Instant time, TemporalAmount span) {
    return time.atZone(ZoneOffset.UTC).minus(span).toInstant();
  }

  /** Also keeps versions that were superseded within this time. */
  public Retention andFor(TemporalAmount time) {
    return new Retention(Optional.of(time), newest, thinning);
  }

  /** Also keeps this number of newest versions. */
  public Retention andNewest(int count) {
    return new Retention(span, OptionalInt.of(count), thinning);
  }

  /**
   * Also keeps the version that was current at the start of each calendar step.
   *
   * @param time steps that began no longer ago than this
   */
  public Retention andOneEach(Step each, TemporalAmount time) {
    List<Thinned> more = new ArrayList<>(thinning);
    more.add(new Thinned(each, time));
    return new Retention(span, newest, more);
  }

  /** Whether there is no rule, so that all versions are kept. */
  public boolean keepsEverything() {
    return span.isEmpty() && newest.isEmpty() && thinning.isEmpty();
  }

  /** Whether a rule depends on times. */
  public boolean looksAtTimes() {
    return span.isPresent() || !thinning.isEmpty();
  }

  /**
   * Whether a rule keeps a version because of its times.
   *
   * @param from when it was committed
   * @param to when it was superseded
   * @param now the current time
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
   * An ISO 8601 duration above zero.
   *
   * @throws InvalidInputException when it is not one, is zero, or is too long
   */
  public static TemporalAmount parsePositive(String text) {
    TemporalAmount span = parseSpan(text);
    check(span);
    return span;
  }

  /**
   * An ISO 8601 duration, such as {@code P7D}, {@code P3M} or {@code PT12H}.
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
   * Thinning rules in the form of the setting: {@code day P1M, week P1Y}.
   *
   * @throws InvalidInputException when the text has another form
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
