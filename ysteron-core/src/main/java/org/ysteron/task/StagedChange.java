package org.ysteron.task;

import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.remote.StagedChangeForm;
import org.ysteron.internal.remote.StagedForm;

/**
 * What is to be done to the tables of a lake as of one entry: rows that were staged come, rows at
 * some positions of data files go, and rows that were read must be as they were. {@link
 * org.ysteron.Lake#apply} applies it, and tests it against what came since. It has a byte form.
 * Immutable, thread-safe: each method returns another one.
 */
public final class StagedChange {
  private final StagedChangeForm form;

  private StagedChange(StagedChangeForm form) {
    this.form = form;
  }

  /**
   * Nothing yet, on the state after an entry.
   *
   * @param hash the hash of the entry, as {@link org.ysteron.LakeView#hash} tells it
   */
  public static StagedChange on(long entry, String hash) {
    return new StagedChange(new StagedChangeForm(entry, hash, Map.of()));
  }

  /**
   * Reads a staged change from its byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are none
   */
  public static StagedChange of(byte[] bytes) {
    return new StagedChange(StagedChangeForm.of(bytes));
  }

  /** As bytes, which {@link #of} reads. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  /** Its id, made of its bytes; the commit that applies it has it, too. */
  public UUID id() {
    return form.id();
  }

  /** The entry on whose state it stands. */
  public long entry() {
    return form.entry();
  }

  private StagedChange with(
      UUID table,
      List<StagedForm> staged,
      List<StagedChangeForm.Removal> removals,
      List<StagedChangeForm.Seen> reads) {
    return new StagedChange(
        form.with(table, new StagedChangeForm.OnTable(staged, removals, reads)));
  }

  /** Also with rows that were staged for a table. */
  public StagedChange adding(StagedRows rows) {
    return with(rows.table(), List.of(rows.form()), List.of(), List.of());
  }

  /**
   * Also without the rows at some positions of the data file of a task.
   *
   * @throws InvalidInputException when the file has no row at one of them
   */
  public StagedChange removing(ScanTask from, int... positions) {
    long rows = from.form().file().file().rows();
    for (int position : positions) {
      if (position < 0 || position >= rows) {
        throw new InvalidInputException(
            "Data file %s has %d rows, counted from 0, and none at position %d."
                .formatted(from.name(), rows, position));
      }
    }
    if (positions.length == 0) {
      return this;
    }
    StagedChangeForm.Removal removal =
        new StagedChangeForm.Removal(from.form().key(), RoaringBitmap.bitmapOf(positions));
    return with(from.table(), List.of(), List.of(removal), List.of());
  }

  /**
   * Also with what was read for it: rows for which a condition is true must be as they were.
   *
   * @param schema the columns that the condition names, as a {@link ScanTask} or a table has them
   */
  public StagedChange reading(UUID table, Condition condition, Schema schema) {
    return with(table, List.of(), List.of(), List.of(new StagedChangeForm.Seen(condition, schema)));
  }
}
