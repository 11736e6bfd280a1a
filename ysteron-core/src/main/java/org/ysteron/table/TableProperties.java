package org.ysteron.table;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.data.Names;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;

/**
 * The settings of a table, each a name and a whole number.
 *
 * @param values those that differ from their defaults
 */
public record TableProperties(Map<String, Long> values) {
  public static final TableProperties DEFAULTS = new TableProperties(Map.of());

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

  /**
   * What happens to rows that do not have the table's columns: 0 strict, 1 lenient, 2 grow, 3 set
   * aside.
   */
  public static final String DRIFT = "drift";

  /** Whether incoming names that differ from a column's by case only mean it: 0 no, 1 yes. */
  public static final String ANY_CASE = "names.any.case";

  private static final Map<String, Setting> SETTINGS =
      Map.of(
          FILE_BYTES, new Setting(128L << 20, 1L << 10, 1L << 40),
          GROUP_BYTES, new Setting(32L << 20, 1L << 10, 1L << 30),
          RANGED_COLUMNS, new Setting(32, 0, 1000),
          REWRITE_PERCENT, new Setting(33, 0, 100),
          DRIFT, new Setting(0, 0, 3),
          ANY_CASE, new Setting(0, 0, 1));

  private record Setting(long standard, long least, long most) {}

  public TableProperties {
    values = Map.copyOf(values);
    values.forEach(
        (name, value) -> {
          Setting setting = setting(name);
          if (value < setting.least || value > setting.most) {
            throw new InvalidInputException(
                "The property %s is %d; it must be from %d to %d."
                    .formatted(name, value, setting.least, setting.most));
          }
        });
  }

  private static Setting setting(String name) {
    Setting setting = SETTINGS.get(name);
    if (setting == null) {
      throw new NotFoundException(
          "There is no table property %s.%s"
              .formatted(name, Names.didYouMean(name, SETTINGS.keySet())));
    }
    return setting;
  }

  /** The names of all properties. */
  public static List<String> names() {
    return SETTINGS.keySet().stream().sorted().toList();
  }

  /** The value of a property, its default when it was not set. */
  public long get(String name) {
    return values.getOrDefault(name, setting(name).standard);
  }

  /** These properties with another value for one. */
  public TableProperties with(String name, long value) {
    Map<String, Long> changed = new TreeMap<>(values);
    changed.put(name, value);
    return new TableProperties(changed);
  }
}
