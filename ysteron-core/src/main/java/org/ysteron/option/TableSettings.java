package org.ysteron.option;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.text.NearNames;

/**
 * The settings of a table, each with a name and a number, a truth or a word. They are checked when
 * they are set; those that a later program has set are kept and passed over. Immutable.
 */
public final class TableSettings {
  /** A data file ends at about so many bytes. */
  public static final String FILE_BYTES = "file.bytes";

  /** A row group ends at about so many bytes. */
  public static final String GROUP_BYTES = "group.bytes";

  /** So many leading columns have their ranges in the file entries, beside the key's. */
  public static final String RANGED_COLUMNS = "ranged.columns";

  /**
   * A data file is written anew when a change leaves more than so many of a hundred of its rows
   * masked, and else gets a row mask: 0 rewrites always, 100 never.
   */
  public static final String REWRITE_PERCENT = "rewrite.percent";

  /** What happens to rows that do not have the table's columns. */
  public static final String DRIFT = "drift";

  /** How many new columns one load may bring when the table grows. */
  public static final String MOST_COLUMNS = "drift.most.columns";

  /** Whether incoming names that differ from a column's by case only mean it. */
  public static final String ANY_CASE = "names.any.case";

  /**
   * Who sees to it that no two rows have one primary key: nobody ({@code declared}), each write
   * among its own rows ({@code within_writes}), or every write in the whole table ({@code exact}).
   */
  public static final String KEY_TEST = "key.test";

  private static final Map<String, Setting> SETTINGS =
      Map.of(
          FILE_BYTES, new Whole(128L << 20, 1L << 10, 1L << 40),
          GROUP_BYTES, new Whole(32L << 20, 1L << 10, 1L << 30),
          RANGED_COLUMNS, new Whole(32, 0, 1000),
          REWRITE_PERCENT, new Whole(33, 0, 100),
          DRIFT,
              new Word(
                  "strict", List.of("strict", "lenient", "grow", "set_aside", "grow_or_set_aside")),
          MOST_COLUMNS, new Whole(1000, 0, 100_000),
          ANY_CASE, new Truth(false),
          KEY_TEST, new Word("exact", List.of("declared", "within_writes", "exact")));

  public static final TableSettings DEFAULTS = new TableSettings(Map.of());

  private final Map<String, Object> values;

  /** What values a setting can have. */
  private sealed interface Setting {
    Object standard();

    /** The value that is meant by one that was given; null when it can be none. */
    Object accept(Object given);

    /** For messages: {@code from 0 to 100}. */
    String possible();
  }

  private record Whole(long least, long most, Object standard) implements Setting {
    Whole(long standard, long least, long most) {
      this(least, most, (Object) standard);
    }

    @Override
    public Object accept(Object given) {
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

  private record Word(Object standard, List<String> words) implements Setting {
    @Override
    public Object accept(Object given) {
      String word = given.toString().toLowerCase(java.util.Locale.ROOT).replace(' ', '_');
      return words.contains(word) ? word : null;
    }

    @Override
    public String possible() {
      return "one of " + String.join(", ", words);
    }
  }

  private record Truth(Object standard) implements Setting {
    @Override
    public Object accept(Object given) {
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

  private TableSettings(Map<String, Object> values) {
    this.values = java.util.Collections.unmodifiableMap(new TreeMap<>(values));
  }

  /** Settings as a version page has them, whoever wrote it. */
  public static TableSettings stored(Map<?, ?> members) {
    Map<String, Object> values = new LinkedHashMap<>();
    members.forEach((name, value) -> values.put((String) name, value));
    return new TableSettings(values);
  }

  private static Setting setting(String name) {
    Setting setting = SETTINGS.get(name);
    if (setting == null) {
      throw new NotFoundException(
          "There is no table setting %s.%s"
              .formatted(name, NearNames.didYouMean(name, SETTINGS.keySet())));
    }
    return setting;
  }

  /** The names of all settings that can be set. */
  public static List<String> names() {
    return SETTINGS.keySet().stream().sorted().toList();
  }

  /** Those that differ from their defaults, and those of later programs. */
  public Map<String, Object> values() {
    return values;
  }

  /** The value of a setting, its default when it was not set to one that is known here. */
  public Object value(String name) {
    Setting setting = setting(name);
    Object given = values.get(name);
    Object value = given == null ? null : setting.accept(given);
    return value == null ? setting.standard() : value;
  }

  /** The value of a setting that is a number. */
  public long number(String name) {
    return (Long) value(name);
  }

  /** The value of a setting that is a word. */
  public String word(String name) {
    return (String) value(name);
  }

  /** The value of a setting that is a truth. */
  public boolean truth(String name) {
    return (Boolean) value(name);
  }

  /**
   * These settings with another value for one.
   *
   * @param value a number, a truth, a word, or the text of one
   * @throws NotFoundException when there is no such setting
   * @throws InvalidInputException when it cannot have that value; says which it can have
   */
  public TableSettings with(String name, Object value) {
    Setting setting = setting(name);
    Object accepted = setting.accept(value);
    if (accepted == null) {
      throw new InvalidInputException(
          "The setting %s is %s; it must be %s.".formatted(name, value, setting.possible()));
    }
    Map<String, Object> changed = new TreeMap<>(values);
    changed.put(name, accepted);
    return new TableSettings(changed);
  }

  /** A data file ends at about so many bytes: {@link #FILE_BYTES}. */
  public TableSettings fileBytes(long bytes) {
    return with(FILE_BYTES, bytes);
  }

  /** A row group ends at about so many bytes: {@link #GROUP_BYTES}. */
  public TableSettings groupBytes(long bytes) {
    return with(GROUP_BYTES, bytes);
  }

  /** So many leading columns have their ranges in the file entries: {@link #RANGED_COLUMNS}. */
  public TableSettings rangedColumns(int columns) {
    return with(RANGED_COLUMNS, columns);
  }

  /**
   * A file is written anew when more than so many of a hundred rows would be masked: {@link
   * #REWRITE_PERCENT}.
   */
  public TableSettings rewritePercent(int percent) {
    return with(REWRITE_PERCENT, percent);
  }

  /** What happens to rows that do not have the columns: {@link #DRIFT}. */
  public TableSettings drift(Drift drift) {
    return with(DRIFT, drift.word());
  }

  /** So many new columns one load may bring: {@link #MOST_COLUMNS}. */
  public TableSettings mostNewColumns(int columns) {
    return with(MOST_COLUMNS, columns);
  }

  /** Whether incoming names may differ by case: {@link #ANY_CASE}. */
  public TableSettings anyCase(boolean anyCase) {
    return with(ANY_CASE, anyCase);
  }

  /** Who tests primary keys: {@link #KEY_TEST}. */
  public TableSettings keyTesting(KeyTesting testing) {
    return with(KEY_TEST, testing.word());
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof TableSettings settings && values.equals(settings.values);
  }

  @Override
  public int hashCode() {
    return values.hashCode();
  }

  @Override
  public String toString() {
    return values.toString();
  }
}
