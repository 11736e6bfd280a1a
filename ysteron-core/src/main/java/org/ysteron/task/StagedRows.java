package org.ysteron.task;

import java.util.UUID;
import org.ysteron.internal.remote.StagedForm;
import org.ysteron.internal.table.StagedFile;

/**
 * Rows in data files of a table that no version of the table contains yet. Its byte form can be
 * sent to another process, which commits them. Immutable, thread-safe.
 */
public final class StagedRows {
  private final StagedForm form;

  StagedRows(StagedForm form) {
    this.form = form;
  }

  /**
   * Reads staged rows from their byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are not a complete one
   */
  public static StagedRows of(byte[] bytes) {
    return new StagedRows(StagedForm.of(bytes));
  }

  /** The byte form, for {@link #of}. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  StagedForm form() {
    return form;
  }

  /**
   * The entry of the state that the rows are written for; their staged change is for the same
   * entry.
   */
  public long entry() {
    return form.start();
  }

  /** The table's id. */
  public UUID table() {
    return form.table();
  }

  /** The number of rows. */
  public long rows() {
    return form.files().stream().mapToLong(StagedFile::rows).sum();
  }

  /** The number of data files. */
  public int files() {
    return form.files().size();
  }
}
