package org.ysteron.internal.merge;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.write.TableWriter;

/** Writes the rows that a merge changes and inserts, in one stream. For one thread. */
final class MergeWriter {
  private final TableChange table;
  private TableWriter writer;
  private long updated;
  private long inserted;
  private final boolean newKeys;
  private final Instant now;

  /**
   * For rows of a table.
   *
   * @param newKeys whether they may get other keys than rows had before
   * @param now when the merge began
   */
  MergeWriter(TableChange table, boolean newKeys, Instant now) {
    this.table = table;
    this.newKeys = newKeys;
    this.now = now;
  }

  private TableWriter writer() {
    writer = writer == null ? table.updatingWriter(newKeys, now) : writer;
    return writer;
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

  /** What wrote the rows, if there are any. */
  Optional<TableWriter> written() {
    return Optional.ofNullable(writer);
  }
}
