package org.ysteron.error;

import java.util.List;
import java.util.Locale;

/**
 * The primary key of rows that were to be written exists already. Nothing was changed. The same
 * rows are rejected again as long as the existing rows are there.
 */
public final class KeyExistsException extends InvalidInputException {
  private static final long serialVersionUID = 1L;

  private final String table;
  private final long rows;
  private final transient List<Existing> some;

  /**
   * A key that is there already.
   *
   * @param key its columns and values, as SQL writes them
   * @param file the number of the data file in which the other row is; -1 when it is among the rows
   *     that were to be written
   * @param serial the serial of the other row, or -1
   */
  public record Existing(String key, long file, long serial) {
    /** In words, one after the other. */
    public static String list(List<Existing> keys) {
      return String.join("; ", keys.stream().map(Existing::toString).toList());
    }

    @Override
    public String toString() {
      return file < 0
          ? key + " more than once in these rows"
          : "%s (serial %d in data file %d)".formatted(key, serial, file);
    }
  }

  /**
   * For a table.
   *
   * @param rows how many rows were refused
   * @param some the first of the keys
   */
  public KeyExistsException(String table, long rows, List<Existing> some, String then) {
    super(
        "%s cannot be added to table %s because %s: %s. Nothing was changed. %s"
            .formatted(
                rows == 1 ? "1 row" : String.format(Locale.ROOT, "%,d rows", rows),
                table,
                rows == 1 ? "its key already exists" : "their keys already exist",
                Existing.list(some),
                then));
    this.table = table;
    this.rows = rows;
    this.some = List.copyOf(some);
  }

  /** The name of the table. */
  public String table() {
    return table;
  }

  /** How many of the rows were refused. */
  public long rows() {
    return rows;
  }

  /** The first of the keys, and where they are. */
  public List<Existing> some() {
    return some;
  }
}
