package org.ysteron.task;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.internal.remote.WriteForm;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.store.ObjectStore;

/**
 * Everything needed to write rows for a table into its store. Its byte form can be sent to another
 * process, which does not need to open the lake. Immutable, thread-safe.
 */
public final class WriteTask {
  private final WriteForm form;

  private WriteTask(WriteForm form) {
    this.form = form;
  }

  /**
   * Reads a task from its byte form.
   *
   * @throws org.ysteron.error.InvalidInputException when the bytes are not a complete one
   */
  public static WriteTask of(byte[] bytes) {
    return new WriteTask(WriteForm.of(bytes));
  }

  /** The byte form, for {@link #of}. */
  public byte[] toBytes() {
    return form.toBytes();
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

  /**
   * Starts writing.
   *
   * @param threads the number of threads that write; 0 for the caller's thread only
   */
  public RowWriter open(ObjectStore store, int threads) {
    return open(store, threads, TableWriter.Hidden.NONE);
  }

  /**
   * Starts writing rows of which some are new forms of rows that are there, which keep their
   * serials.
   *
   * @param threads the number of threads that write; 0 for the caller's thread only
   */
  public RowWriter openForChanges(ObjectStore store, int threads) {
    return open(store, threads, TableWriter.Hidden.SERIALS);
  }

  private RowWriter open(ObjectStore store, int threads, TableWriter.Hidden hidden) {
    Workers workers = new Workers(threads);
    TableWriter writer =
        new TableWriter(
            store, workers, form.page(), form.start(), hidden, Optional.empty(), form.now());
    return new RowWriter(form, writer, workers, hidden == TableWriter.Hidden.SERIALS);
  }
}
