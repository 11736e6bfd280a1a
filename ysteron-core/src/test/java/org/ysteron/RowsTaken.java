package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;

/** Keeps the rows that it takes, as they are. */
public final class RowsTaken implements RowSink {
  private final List<Object> rows = new ArrayList<>();

  /** Each as an array of values, a row, a record, a batch, a map or a row of texts. */
  public List<Object> rows() {
    return rows;
  }

  private RowsTaken take(Object row) {
    rows.add(row);
    return this;
  }

  @Override
  public RowSink add(Object... values) {
    return take(values);
  }

  @Override
  public RowSink addRow(Row row) {
    return take(row);
  }

  @Override
  public RowSink addRecord(Record record) {
    return take(record);
  }

  @Override
  public RowSink addBatch(Batch batch) {
    return take(batch);
  }

  @Override
  public RowSink addObject(Map<String, Object> members) {
    return take(members);
  }

  @Override
  public RowSink addText(TextRow row) {
    return take(row);
  }
}
