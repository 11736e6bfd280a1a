package org.ysteron.task;

import java.util.List;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.remote.StagedChangeForm;
import org.ysteron.internal.remote.StagedForm;

/**
 * A prepared change of tables of a lake as of one entry: staged rows to add, rows to remove by
 * position or by condition, and conditions on rows that must not have changed. Staged rows can be
 * new forms of removed ones, whose serials they keep. {@link org.ysteron.Lake#apply} tests it
 * against later commits and applies it; {@link org.ysteron.Transaction#apply} does so within a
 * transaction that started on the same entry. It has a byte form. Immutable, thread-safe: each
 * method returns another one.
 */
public final class StagedChange {
  private final StagedChangeForm form;

  private StagedChange(StagedChangeForm form) {
    this.form = form;
  }

  /**
   * An empty change of the state after an entry.
   *
   * @param hash the hash of the entry, see {@link org.ysteron.LakeView#hash}
   */
  public static StagedChange on(long entry, String hash) {
    return new StagedChange(StagedChangeForm.on(entry, hash));
  }

  /**
   * Reads a staged change from its byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are not a complete one
   */
  public static StagedChange of(byte[] bytes) {
    return new StagedChange(StagedChangeForm.of(bytes));
  }

  /** The byte form, for {@link #of}. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  /** Its ID, derived from its bytes; the commit that applies it has the same ID. */
  public UUID id() {
    return form.id();
  }

  /** The entry of the state that it changes. */
  public long entry() {
    return form.entry();
  }

  private StagedChange with(
      UUID table,
      List<StagedForm> staged,
      List<StagedChangeForm.Removal> removals,
      List<StagedChangeForm.Seen> removed,
      List<StagedChangeForm.Seen> reads) {
    return new StagedChange(
        form.with(table, new StagedChangeForm.OnTable(staged, removals, removed, reads)));
  }

  /**
   * Also adds staged rows. Those that are new forms of rows ({@link RowWriter#addChanged}) need the
   * removal of these rows in the same change.
   */
  public StagedChange adding(StagedRows rows) {
    return with(rows.table(), List.of(rows.form()), List.of(), List.of(), List.of());
  }

  /**
   * Also removes the rows at some positions of the data file of a task.
   *
   * @throws InvalidInputException when the file has no row at one of the positions
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
    return with(from.table(), List.of(), List.of(removal), List.of(), List.of());
  }

  /**
   * Also removes all rows that match a condition in the state that is changed. It conflicts with
   * later commits that change such rows or bring others, as a delete does.
   *
   * @param condition {@link Condition#all()} for all rows
   * @param schema the columns in the condition, from a {@link ScanTask} or a table
   */
  public StagedChange removing(UUID table, Condition condition, Schema schema) {
    StagedChangeForm.Seen removed = new StagedChangeForm.Seen(condition, schema);
    return with(table, List.of(), List.of(), List.of(removed), List.of());
  }

  /**
   * Says what it is in the history, such as {@code merge}; without it, it is {@code apply}.
   *
   * @param operation up to four words of lower-case letters
   * @throws InvalidInputException when it is something else
   */
  public StagedChange as(String operation) {
    return new StagedChange(form.as(operation));
  }

  /**
   * Makes it a number of a named writer of a table: when the number, or a higher one, was applied
   * before, nothing is done, whatever rows were staged for it then.
   *
   * @param session of {@link org.ysteron.NamedWriter#session()}; a later session of the writer ends
   *     it
   * @param number higher than those before, from 0
   * @throws InvalidInputException when the session is less than 1, or the number is negative
   */
  public StagedChange by(UUID table, String writer, long session, long number) {
    return new StagedChange(form.by(new StagedChangeForm.Writer(table, writer, session, number)));
  }

  /**
   * Also requires that rows matching a condition have not changed, because they were read.
   *
   * @param schema the columns in the condition, from a {@link ScanTask} or a table
   */
  public StagedChange reading(UUID table, Condition condition, Schema schema) {
    StagedChangeForm.Seen read = new StagedChangeForm.Seen(condition, schema);
    return with(table, List.of(), List.of(), List.of(), List.of(read));
  }
}
