package org.ysteron.task;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.internal.remote.StagedForm;
import org.ysteron.internal.remote.WriteForm;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TableWriter;

/**
 * Writes rows for a table to data files that are in no version of it yet. A row that is refused is
 * left out; any other failure ends it. Closing it without {@link #finish()} deletes what it wrote.
 * For one thread.
 */
public final class RowWriter implements AutoCloseable {
  private final WriteForm form;
  private final TableWriter writer;
  private final Workers workers;
  private boolean finished;

  RowWriter(WriteForm form, TableWriter writer, Workers workers) {
    this.form = form;
    this.writer = writer;
    this.workers = workers;
  }

  /** Adds a row by the values of all columns, in their order. */
  public RowWriter add(@Nullable Object... values) {
    writer.add(values);
    return this;
  }

  /** Adds a row by names; a column that it lacks gets its default, or null. */
  public RowWriter addRow(Row row) {
    writer.add(row);
    return this;
  }

  /** Adds rows by column. */
  public RowWriter addBatch(Batch batch) {
    writer.add(batch);
    return this;
  }

  /** Ends the files; when this returns they are durable. */
  public StagedRows finish() {
    List<StagedFile> files = writer.finish();
    writer.awaitDurable();
    finished = true;
    return new StagedRows(new StagedForm(form.table(), form.start(), files));
  }

  /** Deletes what was written, unless it was finished, and ends the threads. */
  @Override
  public void close() {
    if (!finished) {
      writer.discard();
    }
    workers.close();
  }
}
