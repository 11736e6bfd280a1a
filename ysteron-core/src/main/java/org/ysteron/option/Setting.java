package org.ysteron.option;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.text.NearNames;

/** The possible values of a setting. Immutable. */
sealed interface Setting {
  /** The default. */
  Object standard();

  /** The value for a given one; null if it is not possible. */
  @Nullable Object accept(Object given);

  /** For messages: {@code from 0 to 100}. */
  String possible();

  /** A number between two others. */
  record Whole(long least, long most, Object standard) implements Setting {
    Whole(long standard, long least, long most) {
      this(least, most, (Object) standard);
    }

    @Override
    public @Nullable Object accept(Object given) {
      try {
        long number = Long.parseLong(given.toString());
        return number >= least && number <= most ? number : null;
      } catch (NumberFormatException e) {
        return null;
      }
    }

    @Override
    public String possible() {
      return "a number from %d to %d".formatted(least, most);
    }
  }

  /** One of some words. */
  record Word(Object standard, List<String> words) implements Setting {
    @Override
    public @Nullable Object accept(Object given) {
      String word = given.toString().toLowerCase(Locale.ROOT).replace(' ', '_');
      return words.contains(word) ? word : null;
    }

    @Override
    public String possible() {
      return "one of " + String.join(", ", words);
    }
  }

  /** True or false. */
  record Flag(Object standard) implements Setting {
    @Override
    public @Nullable Object accept(Object given) {
      return switch (given.toString()) {
        case "true" -> true;
        case "false" -> false;
        default -> null;
      };
    }

    @Override
    public String possible() {
      return "true or false";
    }
  }

  /** A text that a parser accepts; empty for unset if that is the default. */
  record Text(Object standard, Consumer<String> reader, String possible) implements Setting {
    private static final int LONGEST = 1000;

    @Override
    public @Nullable Object accept(Object given) {
      String text = given.toString().trim();
      if (text.length() > LONGEST) {
        return null;
      }
      try {
        if (!text.isEmpty() || !standard.equals("")) {
          reader.accept(text);
        }
        return text;
      } catch (InvalidInputException e) {
        return null;
      }
    }
  }

  /** The settings that say which versions are kept, for a table or for all of a lake. */
  static Map<String, Setting> ofRetention() {
    return Map.of(
        TableSettings.KEEP_FOR,
        new Text("", Retention::parsePositive, "an ISO 8601 duration, such as P7D, or empty"),
        TableSettings.KEEP_NEWEST,
        new Whole(0, 0, Integer.MAX_VALUE),
        TableSettings.KEEP_THINNED,
        new Text(
            "",
            Retention::parseThinning,
            "calendar steps with durations, such as day P1M, week P1Y, or empty"));
  }

  /** The rules that values of those settings stand for. */
  static Retention retention(Function<String, Object> values) {
    Retention rules = Retention.EVERYTHING;
    String span = (String) values.apply(TableSettings.KEEP_FOR);
    if (!span.isEmpty()) {
      rules = rules.andFor(Retention.parseSpan(span));
    }
    long newest = (Long) values.apply(TableSettings.KEEP_NEWEST);
    if (newest > 0) {
      rules = rules.andNewest((int) newest);
    }
    String thinned = (String) values.apply(TableSettings.KEEP_THINNED);
    for (Retention.Thinned rule : Retention.parseThinning(thinned)) {
      rules = rules.andOneEach(rule.each(), rule.span());
    }
    return rules;
  }

  /** The values of those settings that stand for some rules. */
  static Map<String, Object> values(Retention rules) {
    return Map.of(
        TableSettings.KEEP_FOR,
        rules.span().map(Object::toString).orElse(""),
        TableSettings.KEEP_NEWEST,
        rules.newest().orElse(0),
        TableSettings.KEEP_THINNED,
        rules.thinning().stream().map(Object::toString).collect(Collectors.joining(", ")));
  }

  /** A setting by name. */
  static Setting named(String name, Map<String, Setting> all, String kind) {
    Setting setting = all.get(name);
    if (setting == null) {
      throw new NotFoundException(
          NotFoundException.Kind.SETTING,
          name,
          "There is no %s setting %s.%s"
              .formatted(kind, name, NearNames.didYouMean(name, all.keySet())));
    }
    return setting;
  }

  /**
   * The value for a given one.
   *
   * @throws InvalidInputException when it is not possible
   */
  default Object accepted(String name, Object given) {
    Object accepted = accept(given);
    if (accepted == null) {
      throw new InvalidInputException(
          "The setting %s cannot be %s; it must be %s."
              .formatted(name, Values.quote(String.valueOf(given)), possible()));
    }
    return accepted;
  }

  /** The stored value; the default if it is missing or unknown. */
  default Object valueOf(@Nullable Object stored) {
    Object value = stored == null ? null : accept(stored);
    return value == null ? standard() : value;
  }
}
