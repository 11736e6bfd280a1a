package org.ysteron.task;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;
import org.ysteron.internal.remote.StagedForm;
import org.ysteron.internal.remote.WriteForm;
import org.ysteron.internal.rows.RowForms;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TableWriter;

/**
 * Writes rows for a table to data files that are in no version of it yet. A row that is refused is
 * left out; any other failure ends it. Closing it without {@link #finish()} deletes what it wrote.
 * For one thread.
 */
public final class RowWriter implements RowSink, AutoCloseable {
  private final WriteForm form;
  private final TableWriter writer;
  private final Workers workers;
  private final RowForms forms;
  private boolean finished;

  RowWriter(WriteForm form, TableWriter writer, Workers workers) {
    this.form = form;
    this.writer = writer;
    this.workers = workers;
    this.forms = new RowForms(form.page().schema().struct());
  }

  @Override
  public RowWriter add(@Nullable Object... values) {
    writer.add(values);
    return this;
  }

  @Override
  public RowWriter addRow(Row row) {
    writer.add(row);
    return this;
  }

  @Override
  public RowWriter addBatch(Batch batch) {
    writer.add(batch);
    return this;
  }

  @Override
  public RowWriter addRecord(Record record) {
    return add(forms.values(record));
  }

  @Override
  public RowWriter addObject(Map<String, @Nullable Object> members) {
    return addRow(forms.row(members));
  }

  @Override
  public RowWriter addText(TextRow row) {
    return addRow(forms.row(row));
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
