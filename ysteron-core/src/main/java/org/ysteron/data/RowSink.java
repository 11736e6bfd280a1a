package org.ysteron.data;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Takes rows for a table, each in the form that the caller has. All that rows are added to is a
 * sink: appends, tables in transactions, writers, sources of merges. Each says what happens to a
 * row that does not fit.
 */
public interface RowSink {

  /**
   * Adds a row by the values of all columns, in their order.
   *
   * @param values each of its type's Java class (see {@link Type}), or null
   * @throws org.ysteron.error.InvalidInputException naming row, column, value and type
   */
  RowSink add(@Nullable Object... values);

  /**
   * Adds a row by names; a column that it lacks gets its default, or null.
   *
   * @throws org.ysteron.error.InvalidInputException naming row, column, value and type
   */
  RowSink addRow(Row row);

  /**
   * Adds a row from a record, whose components are bound to the columns by name.
   *
   * @throws org.ysteron.error.InvalidInputException when a component has no column, or is of
   *     another type
   */
  RowSink addRecord(Record record);

  /** Adds rows by column; the columns are the table's, in their order. */
  RowSink addBatch(Batch batch);

  /**
   * Adds a row by the members of a parsed JSON object (see {@link Json#parse}).
   *
   * @throws org.ysteron.error.InvalidInputException naming row, column, value and type
   */
  RowSink addObject(Map<String, @Nullable Object> members);

  /**
   * Adds a row of texts, such as one of a CSV file.
   *
   * @throws org.ysteron.error.InvalidInputException naming row, column, value and type
   */
  RowSink addText(TextRow row);
}
