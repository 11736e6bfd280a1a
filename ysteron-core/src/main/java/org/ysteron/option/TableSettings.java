package org.ysteron.option;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;

/**
 * The settings of a table, each with a name and a number, a boolean or a word. They are checked
 * when they are set; those that a later program has set are kept and passed over. Immutable.
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
  public static final String MAX_COLUMNS = "drift.max.columns";

  /** Whether incoming names that differ from a column's by case only mean it. */
  public static final String IGNORE_CASE = "names.ignore.case";

  /**
   * Who sees to it that no two rows have one primary key: nobody ({@code declared}), each write
   * among its own rows ({@code within_writes}), or every write in the whole table ({@code exact}).
   */
  public static final String KEY_TEST = "key.test";

  /** Versions superseded no longer ago than such a time are kept; empty for no such rule. */
  public static final String KEEP_FOR = "keep.for";

  /** So many of the newest versions are kept; 0 for no such rule. */
  public static final String KEEP_NEWEST = "keep.newest";

  /** Versions that are thinned out: {@code day P1M, week P1Y}; empty for no such rule. */
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

  /** Names under which settings were stored once. */
  private static final Map<Object, String> FORMER =
      Map.of("drift.most.columns", MAX_COLUMNS, "names.any.case", IGNORE_CASE);

  public static final TableSettings DEFAULTS = new TableSettings(Map.of());

  private final Map<String, Object> values;

  private TableSettings(Map<String, Object> values) {
    this.values = java.util.Collections.unmodifiableMap(new TreeMap<>(values));
  }

  /** Settings as a version page has them, whoever wrote it. */
  public static TableSettings stored(Map<?, ?> members) {
    Map<String, Object> values = new LinkedHashMap<>();
    members.forEach((name, value) -> values.put(FORMER.getOrDefault(name, (String) name), value));
    return new TableSettings(values);
  }

  private static Setting setting(String name) {
    return Setting.named(name, SETTINGS, "table");
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
   * @throws InvalidInputException when it cannot have that value; says which it can have
   */
  public TableSettings with(String name, Object value) {
    Map<String, Object> changed = new TreeMap<>(values);
    changed.put(name, setting(name).accepted(name, value));
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

  /** So many new columns one load may bring: {@link #MAX_COLUMNS}. */
  public TableSettings maxNewColumns(int columns) {
    return with(MAX_COLUMNS, columns);
  }

  /** Whether incoming names may differ by case: {@link #IGNORE_CASE}. */
  public TableSettings ignoreCase(boolean ignoreCase) {
    return with(IGNORE_CASE, ignoreCase);
  }

  /** Who tests primary keys: {@link #KEY_TEST}. */
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

  /** Which versions are kept; everything when no rule was set. */
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
