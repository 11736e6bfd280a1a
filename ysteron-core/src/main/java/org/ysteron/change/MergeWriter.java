package org.ysteron.change;

import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.table.StagedFile;

/** Writes the rows that a merge changes and inserts, in one stream. For one thread. */
final class MergeWriter {
  private final TableChange table;
  private final Schema schema;
  private final NewKeys newKeys;
  private TableWriter writer;
  private long updated;
  private long inserted;
  private boolean keysChange;

  MergeWriter(TableChange table, Schema schema) {
    this.table = table;
    this.schema = schema;
    this.newKeys = new NewKeys(table);
  }

  private TableWriter writer() {
    writer = writer == null ? table.updatingWriter() : writer;
    return writer;
  }

  /** Says that updates may give rows another key. */
  void expectNewKeys() {
    keysChange = true;
    newKeys.expect();
  }

  void update(Object[] values, Long serial) {
    updated++;
    write(values, serial);
  }

  void insert(Object[] values) {
    inserted++;
    write(values, null);
  }

  /** Rows of which those with a serial are updated and those without are inserted. */
  void write(Batch rows, Vector serials) {
    updated += rows.size() - serials.nullCount();
    inserted += serials.nullCount();
    writer().addMoved(rows, serials);
  }

  /** Counts rows that have no serial yet, and are updated all the same. */
  void countOwn(long rows) {
    updated += rows;
    inserted -= rows;
  }

  private void write(Object[] values, Long serial) {
    writer().addMoved(values, serial);
    if (keysChange) {
      Row row = Row.of(schema.struct(), values);
      Batch one = RowChecker.batchOf(schema, row);
      newKeys.add(one);
    }
  }

  NewKeys newKeys() {
    return newKeys;
  }

  long updated() {
    return updated;
  }

  long inserted() {
    return inserted;
  }

  List<StagedFile> finish() {
    return writer == null ? List.of() : writer.finish();
  }
}
