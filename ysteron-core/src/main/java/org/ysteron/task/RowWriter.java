package org.ysteron.task;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;
import org.ysteron.data.Types;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
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
  private final boolean forChanges;
  private boolean finished;

  RowWriter(WriteForm form, TableWriter writer, Workers workers, boolean forChanges) {
    this.forChanges = forChanges;
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

  /**
   * Adds new forms of rows that are there, which keep their serials. Whoever commits them removes
   * the old forms in the same change.
   *
   * @param rows all columns of the table
   * @param serials the serial of each row, as a {@link LocatedBatch} tells it
   * @throws InvalidInputException when the writer is not {@link WriteTask#openForChanges}, or a
   *     serial is missing or negative
   */
  public RowWriter addChanged(Batch rows, long... serials) {
    if (!forChanges) {
      throw new InvalidInputException(
          "This writer takes new rows only. Open it with openForChanges to write new forms of rows; nothing was added.");
    }
    if (serials.length != rows.size()) {
      throw new InvalidInputException(
          "There are %d serials for %d rows. Give one for each row; nothing was added."
              .formatted(serials.length, rows.size()));
    }
    VectorBuilder column = new VectorBuilder(Types.BIGINT);
    for (long serial : serials) {
      if (serial < 0) {
        throw new InvalidInputException(
            "A serial is %d; serials count from 0. Nothing was added.".formatted(serial));
      }
      column.add(serial);
    }
    writer.addMoved(rows, column.build());
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
