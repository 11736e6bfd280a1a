package org.ysteron.option;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;

/**
 * The settings of a table: each has a name and a value, which is a number, a boolean or a text.
 * Values are checked when they are set. Settings of newer programs are kept and ignored. Immutable.
 */
public final class TableSettings {
  /** The target size of a data file, in bytes. */
  public static final String FILE_BYTES = "file.bytes";

  /** The target size of a row group, in bytes. */
  public static final String GROUP_BYTES = "group.bytes";

  /**
   * The number of leading columns whose ranges are kept per data file, in addition to the key's.
   */
  public static final String RANGED_COLUMNS = "ranged.columns";

  /**
   * The percentage of masked rows above which a change rewrites a data file instead of adding a row
   * mask: 0 always rewrites, 100 never.
   */
  public static final String REWRITE_PERCENT = "rewrite.percent";

  /** What happens to rows whose columns differ from the table's. */
  public static final String DRIFT = "drift";

  /** The number of new columns that one load can add. */
  public static final String MAX_COLUMNS = "drift.max.columns";

  /** Whether incoming names match columns regardless of case. */
  public static final String IGNORE_CASE = "names.ignore.case";

  /**
   * How writes test that primary keys are unique: not at all ({@code declared}), among the rows of
   * each write ({@code within_writes}), or in the whole table ({@code exact}).
   */
  public static final String KEY_TEST = "key.test";

  /** Versions that were superseded within this time are kept; empty for no rule. */
  public static final String KEEP_FOR = "keep.for";

  /** This number of newest versions is kept; 0 for no rule. */
  public static final String KEEP_NEWEST = "keep.newest";

  /** Thinning rules, such as {@code day P1M, week P1Y}; empty for none. */
  public static final String KEEP_THINNED = "keep.thinned";

  private static final Map<String, Setting> SETTINGS = settings();

  private static Map<String, Setting> settings() {
    Map<String, Setting> all = new TreeMap<>(Setting.ofRetention());
    all.putAll(
        Map.of(
            FILE_BYTES, new Setting.Whole(128L << 20, 1L << 10, 1L << 40),
            GROUP_BYTES, new Setting.Whole(32L << 20, 1L << 10, 1L << 30),
            RANGED_COLUMNS, new Setting.Whole(32, 0, 1000),
            REWRITE_PERCENT, new Setting.Whole(33, 0, 100),
            DRIFT,
                new Setting.Word(
                    "strict",
                    List.of("strict", "lenient", "grow", "set_aside", "grow_or_set_aside")),
            MAX_COLUMNS, new Setting.Whole(1000, 0, 100_000),
            IGNORE_CASE, new Setting.Flag(false),
            KEY_TEST, new Setting.Word("exact", List.of("declared", "within_writes", "exact"))));
    return all;
  }

  /** Former names of settings. */
  private static final Map<Object, String> FORMER =
      Map.of("drift.most.columns", MAX_COLUMNS, "names.any.case", IGNORE_CASE);

  public static final TableSettings DEFAULTS = new TableSettings(Map.of());

  private final Map<String, Object> values;

  private TableSettings(Map<String, Object> values) {
    this.values = java.util.Collections.unmodifiableMap(new TreeMap<>(values));
  }

  /** Settings as they are stored in a version page. */
  public static TableSettings stored(Map<?, ?> members) {
    Map<String, Object> values = new LinkedHashMap<>();
    members.forEach((name, value) -> values.put(FORMER.getOrDefault(name, (String) name), value));
    return new TableSettings(values);
  }

  private static Setting setting(String name) {
    String now = FORMER.get(name);
    if (now != null) {
      throw new NotFoundException(
          NotFoundException.Kind.SETTING,
          name,
          "The table setting %s is now called %s.".formatted(name, now));
    }
    return Setting.named(name, SETTINGS, "table");
  }

  /** The names of all settings that can be set. */
  public static List<String> names() {
    return SETTINGS.keySet().stream().sorted().toList();
  }

  /** The settings that differ from their defaults, and those of newer programs. */
  public Map<String, Object> values() {
    return values;
  }

  /** The value of a setting; its default if it was not set, or to an unknown value. */
  public Object value(String name) {
    return setting(name).valueOf(values.get(name));
  }

  /** The value of a setting that is a number. */
  public long number(String name) {
    return (Long) value(name);
  }

  /** The value of a setting that is a word. */
  public String word(String name) {
    return (String) value(name);
  }

  /** The value of a setting that is a boolean. */
  public boolean flag(String name) {
    return (Boolean) value(name);
  }

  /**
   * These settings with another value for one.
   *
   * @param value a number, a boolean, a word, or the text of one
   * @throws NotFoundException when there is no such setting
   * @throws InvalidInputException when it cannot have that value; the message says which it can
   *     have
   */
  public TableSettings with(String name, Object value) {
    Map<String, Object> changed = new TreeMap<>(values);
    changed.put(name, setting(name).accepted(name, value));
    return new TableSettings(changed);
  }

  /** The target size of a data file: {@link #FILE_BYTES}. */
  public TableSettings fileBytes(long bytes) {
    return with(FILE_BYTES, bytes);
  }

  /** The target size of a row group: {@link #GROUP_BYTES}. */
  public TableSettings groupBytes(long bytes) {
    return with(GROUP_BYTES, bytes);
  }

  /** The number of leading columns with ranges per file: {@link #RANGED_COLUMNS}. */
  public TableSettings rangedColumns(int columns) {
    return with(RANGED_COLUMNS, columns);
  }

  /** The percentage of masked rows above which a file is rewritten: {@link #REWRITE_PERCENT}. */
  public TableSettings rewritePercent(int percent) {
    return with(REWRITE_PERCENT, percent);
  }

  /** What happens to rows with other columns: {@link #DRIFT}. */
  public TableSettings drift(Drift drift) {
    return with(DRIFT, drift.word());
  }

  /** The number of new columns that one load can add: {@link #MAX_COLUMNS}. */
  public TableSettings maxNewColumns(int columns) {
    return with(MAX_COLUMNS, columns);
  }

  /** Whether case is ignored in incoming names: {@link #IGNORE_CASE}. */
  public TableSettings ignoreCase(boolean ignoreCase) {
    return with(IGNORE_CASE, ignoreCase);
  }

  /** How primary keys are tested: {@link #KEY_TEST}. */
  public TableSettings keyTesting(KeyTesting testing) {
    return with(KEY_TEST, testing.word());
  }

  /** Which versions are kept: {@link #KEEP_FOR}, {@link #KEEP_NEWEST}, {@link #KEEP_THINNED}. */
  public TableSettings keeping(Retention rules) {
    TableSettings changed = this;
    for (Map.Entry<String, Object> value : Setting.values(rules).entrySet()) {
      changed = changed.with(value.getKey(), value.getValue());
    }
    return changed;
  }

  /** Which versions are kept; all if no rule was set. */
  public Retention retention() {
    return Setting.retention(this::value);
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
