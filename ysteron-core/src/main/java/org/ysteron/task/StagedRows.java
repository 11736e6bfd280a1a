package org.ysteron.task;

import java.util.UUID;
import org.ysteron.internal.remote.StagedForm;
import org.ysteron.internal.table.StagedFile;

/**
 * Rows that were written to data files of a table and are in no version of it yet. It has a byte
 * form, so that another process can commit them. Immutable, thread-safe.
 */
public final class StagedRows {
  private final StagedForm form;

  StagedRows(StagedForm form) {
    this.form = form;
  }

  /**
   * Reads staged rows from their byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are none
   */
  public static StagedRows of(byte[] bytes) {
    return new StagedRows(StagedForm.of(bytes));
  }

  /** As bytes, which {@link #of} reads. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  StagedForm form() {
    return form;
  }

  /** The entry on whose state the rows are written; a staged change for them stands on the same. */
  public long entry() {
    return form.start();
  }

  /** The table's id. */
  public UUID table() {
    return form.table();
  }

  /** How many rows there are. */
  public long rows() {
    return form.files().stream().mapToLong(StagedFile::rows).sum();
  }

  /** How many data files they are in. */
  public int files() {
    return form.files().size();
  }
}
