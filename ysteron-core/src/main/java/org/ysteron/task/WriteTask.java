package org.ysteron.task;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.internal.remote.WriteForm;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.store.ObjectStore;

/**
 * What it takes to write rows for a table, beside the store they go to. It has a byte form, so that
 * a process can write that knows no lake. Immutable, thread-safe.
 */
public final class WriteTask {
  private final WriteForm form;

  private WriteTask(WriteForm form) {
    this.form = form;
  }

  /**
   * Reads a task from its byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are none
   */
  public static WriteTask of(byte[] bytes) {
    return new WriteTask(WriteForm.of(bytes));
  }

  /** As bytes, which {@link #of} reads. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  /** The entry on whose state the rows are written; a staged change for them stands on the same. */
  public long entry() {
    return form.start();
  }

  /** The table's id. */
  public UUID table() {
    return form.table();
  }

  /**
   * Starts writing.
   *
   * @param threads how many threads write; 0 for the caller's only
   */
  public RowWriter open(ObjectStore store, int threads) {
    Workers workers = new Workers(threads);
    TableWriter writer =
        new TableWriter(
            store, workers, form.page(), form.start(), TableWriter.Hidden.NONE, Optional.empty());
    return new RowWriter(form, writer, workers);
  }
}
