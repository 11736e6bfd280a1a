package org.ysteron.data;

import org.jspecify.annotations.Nullable;

/**
 * A batch of which only some rows count, so that nobody has to copy them together.
 *
 * @param batch all rows that were read; the values of rows that do not count mean nothing
 * @param rows the positions in the batch of the rows that count, ascending; null for all
 * @param count how many rows count
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record SelectedBatch(Batch batch, int @Nullable [] rows, int count) {
  /** The position in the batch of one of the rows that count, from 0 up to {@link #count}. */
  public int at(int i) {
    return rows == null ? i : rows[i];
  }
}
