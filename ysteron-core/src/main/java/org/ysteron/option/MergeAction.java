package org.ysteron.option;

import java.util.Map;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;
import org.ysteron.expr.Expression;

/** What a clause of a merge does with a row. */
public sealed interface MergeAction {

  /** Deletes the row of the table. */
  record Delete() implements MergeAction {}

  /** Sets every column of the source to the source's value, or inserts the source's row. */
  record TakeAll() implements MergeAction {}

  /**
   * Sets columns to values computed from the rows of the table and the source. Other columns keep
   * their value, or get their default if the row is inserted.
   */
  record Set(Map<String, Expression> values) implements MergeAction {}

  /** The same by functions of the row of the table and that of the source. */
  record SetBy(Map<String, BiFunction<Row, Row, @Nullable Object>> values) implements MergeAction {}
}
