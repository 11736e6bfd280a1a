package org.ysteron.history;

import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;

/**
 * Rows that differ between two versions in the same way, by column. Row {@code i} of {@code before}
 * and of {@code after} is the same row, with serial {@code serials[i]}.
 *
 * @param kind what happened to them
 * @param serials their serials
 * @param before their values in the earlier version; null for inserted rows
 * @param after their values in the later version; null for deleted rows
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record ChangeBatch(
    ChangeKind kind, long[] serials, @Nullable Batch before, @Nullable Batch after) {

  /** How many rows there are. */
  public int size() {
    return serials.length;
  }

  /** One of the rows, as a view on this batch. */
  public ChangedRow row(int index) {
    return new ChangedRow(
        kind,
        serials[index],
        before == null ? null : before.row(index),
        after == null ? null : after.row(index));
  }
}
