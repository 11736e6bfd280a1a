package org.ysteron.data;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;

/**
 * A row of a file in which every value is text, such as a CSV file. The type of a value follows
 * from its text.
 *
 * @param names the column names; one list for all rows of a file
 * @param values the texts; null for a missing value, empty for an empty value in quotes
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record TextRow(List<String> names, @Nullable String[] values) {
  /**
   * Checks the number of values.
   *
   * @throws InvalidInputException when it is not the number of names
   */
  public TextRow {
    if (names.size() != values.length) {
      throw new InvalidInputException(
          "A row of texts has %d values for %d columns. Nothing was changed."
              .formatted(values.length, names.size()));
    }
  }
}
