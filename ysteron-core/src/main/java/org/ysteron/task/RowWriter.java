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
 * Writes rows for a table to data files that no version of the table contains yet. A row that is
 * rejected is not added; any other failure ends the writer. Closing it without {@link #finish()}
 * deletes its files. For one thread.
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

  /** Finishes the files and makes them durable. */
  public StagedRows finish() {
    List<StagedFile> files = writer.finish();
    writer.awaitDurable();
    finished = true;
    return new StagedRows(new StagedForm(form.table(), form.start(), files));
  }

  /** Deletes unfinished files, and ends the threads. */
  @Override
  public void close() {
    if (!finished) {
      writer.discard();
    }
    workers.close();
  }
}
