package org.ysteron.sql.change;

import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.sql.keep.Step;

/**
 * Rows that a statement has found, and what becomes of each.
 *
 * @param step makes them: a number of an {@link Action}, file and position of a row that is there,
 *     and the new values
 * @param columns the columns of the table whose values these are, behind the first three; for rows
 *     that get some new values only those of {@code updated} count
 * @param updated which columns rows get that are there
 */
public record FoundRows(Step step, List<Field> columns, List<Field> updated) {
  /** Columns before the new values. */
  public static final int PLACES = 3;

  /** What becomes of a row. */
  public enum Action {
    NOTHING(0),
    DELETE(1),
    UPDATE(2),
    INSERT(3);

    private final int number;

    Action(int number) {
      this.number = number;
    }

    /** How steps tell it. */
    int number() {
      return number;
    }

    /** The one of a number. */
    public static Action of(int number) {
      return switch (number) {
        case 1 -> DELETE;
        case 2 -> UPDATE;
        case 3 -> INSERT;
        default -> NOTHING;
      };
    }
  }
}
