package org.ysteron.option;

import java.util.Map;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;

/** What a clause of a merge does with a row. */
public sealed interface MergeAction {

  /** Deletes the row of the table. */
  record Delete() implements MergeAction {}

  /** Gives every column that the source has the source's value, or inserts the source's row. */
  record TakeAll() implements MergeAction {}

  /**
   * Gives columns new values, from the row of the table and that of the source; the others keep
   * theirs, or get their default when the row is inserted.
   */
  record Set(Map<String, BiFunction<Row, Row, @Nullable Object>> values) implements MergeAction {}
}
