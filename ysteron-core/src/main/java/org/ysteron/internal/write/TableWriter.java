package org.ysteron.internal.write;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.concurrent.Future;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.EndedException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.file.DataFileWriter;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.keys.BroughtKeys;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.Partitioner;
import org.ysteron.internal.rows.FieldPath;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.StoreFailures;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.PartitionBuffer.Parts;
import org.ysteron.option.TableSettings;
import org.ysteron.store.ObjectStore;

/**
 * Writes rows into new data files of a table, starting another file when one is full. Memory does
 * not grow with the rows. Nothing is in the table before the staged files are committed; closing
 * without {@link #finish()}, or {@link #discard}, deletes what was written.
 *
 * <p>A row, or a batch, that is refused is left out, and the writer goes on with the others. A
 * failure that may lose rows it has taken ends it: whatever is asked of it afterwards fails. For
 * one thread.
 */
public final class TableWriter implements AutoCloseable {
  /** Row masks count positions in 31 bits. */
  private static final long MOST_ROWS = 1 << 30;

  private static final Parts NOWHERE = new Parts(List.of());

  private final ObjectStore store;
  private final Workers workers;
  private final VersionPage table;
  private final long start;
  private final RowChecker checker;
  private final Schema schema;
  private final VectorBuilder serials;
  private final Hidden hidden;
  private final List<StagedFile> staged = new ArrayList<>();
  private final List<Future<Void>> syncs = new ArrayList<>();
  private final PartitionBuffer buffer;
  private final PartitionRuns runs;
  private final RowOrder order;
  private final Optional<BroughtKeys> keys;
  private long mostBytes;
  private OpenFile open;
  private long rows;
  private boolean finished;
  private Throwable failure;

  /** What of a row is told beside its values. */
  public enum Hidden {
    /** Nothing: all rows are new. */
    NONE,
    /** Serials: some rows are new forms of older ones. */
    SERIALS,
    /** Serials and births: rows are moved. */
    BIRTHS
  }

  /**
   * Starts writing.
   *
   * @param table the version whose schema and settings hold
   * @param start the ledger entry that the writer starts from
   * @param keys takes the keys of the rows, when they are to be tested
   * @param now when the statement began, for defaults that read it
   */
  public TableWriter(
      ObjectStore store,
      Workers workers,
      VersionPage table,
      long start,
      Hidden hidden,
      Optional<BroughtKeys> keys,
      Instant now) {
    this.keys = keys;
    this.hidden = hidden;
    this.store = store;
    this.workers = workers;
    this.table = table;
    this.start = start;
    this.mostBytes = table.settings().number(TableSettings.FILE_BYTES);
    this.checker = new RowChecker(table.form(), now);
    this.schema =
        switch (hidden) {
          case NONE -> table.schema();
          case SERIALS -> HiddenColumns.withSerials(table.schema());
          case BIRTHS -> HiddenColumns.with(table.schema());
        };
    Layout layout = table.form().layout();
    List<Partitioner> partitioners = layout.partitioners(table.layoutVersion(), table.schema());
    boolean plain = layout.equals(Layout.NONE);
    this.buffer =
        plain ? null : new PartitionBuffer(schema, partitioners, workers.means().memory());
    this.order = layout.hasOrder() ? new RowOrder(layout, schema) : null;
    this.runs = plain ? null : new PartitionRuns(schema, order, workers);
    this.serials = hidden == Hidden.SERIALS ? new VectorBuilder(Types.BIGINT) : null;
  }

  /** Adds a row by all its values. */
  public void add(Object... values) {
    ready();
    checker.add(values);
    added(null);
  }

  /** Adds a row by names. */
  public void add(Row row) {
    ready();
    checker.add(row);
    added(null);
  }

  /** Adds a row by all its values, and its serial; null for a row that gets a new one. */
  public void addMoved(Object[] values, Long serial) {
    ready();
    checker.add(values);
    added(serial);
  }

  private void added(Long serial) {
    rows++;
    if (serials != null) {
      serials.add(serial);
    }
    if (checker.isFull()) {
      orEnd(this::flush);
    }
  }

  private void ready() {
    if (failure != null) {
      throw new EndedException(
          EndedException.Kind.WRITER,
          table.name(),
          "Rows for table %s could not be written, and earlier rows of the same append are lost: %s Nothing was changed; start again."
              .formatted(table.name(), failure.getMessage()),
          failure);
    }
    if (finished) {
      throw new EndedException(
          EndedException.Kind.WRITER,
          table.name(),
          "The data files for table %s are finished. Use another writer for more rows."
              .formatted(table.name()),
          null);
    }
  }

  /** Does what must not fail halfway: if it does, the writer has ended. */
  private void orEnd(Runnable work) {
    try {
      work.run();
    } catch (RuntimeException | Error e) {
      failure = e;
      throw e;
    }
  }

  private void flush() {
    if (!checker.isEmpty()) {
      Batch batch = kept(checker.take());
      write(serials == null ? batch : with(batch, serials.build()));
    }
  }

  private Batch kept(Batch batch) {
    return keys.isPresent() ? keys.get().add(batch) : batch;
  }

  private Batch with(Batch batch, Vector... columns) {
    List<Vector> vectors = new ArrayList<>(batch.vectors());
    vectors.addAll(List.of(columns));
    return new Batch(schema.struct(), batch.size(), vectors);
  }

  /** Adds a batch whose rows have serials, or null for new ones. */
  public void addMoved(Batch batch, Vector column) {
    addChecked(batch, column);
  }

  /** Adds a batch of rows that are moved; a null birth stands for rows of this transaction. */
  public void addMoved(Batch batch, Vector ofSerials, Vector births) {
    addChecked(batch, ofSerials, births);
  }

  /** Adds a batch, whose columns are the table's. */
  public void add(Batch batch) {
    if (serials == null) {
      addChecked(batch);
      return;
    }
    VectorBuilder none = new VectorBuilder(Types.BIGINT);
    for (int i = 0; i < batch.size(); i++) {
      none.addNull();
    }
    addChecked(batch, none.build());
  }

  private void addChecked(Batch batch, Vector... told) {
    ready();
    Batch checked = checker.check(batch);
    rows += checked.size();
    orEnd(
        () -> {
          flush();
          Batch kept = kept(checked);
          write(told.length == 0 ? kept : with(kept, told));
        });
  }

  /** A file ends at so many bytes, instead of the table's setting. */
  public void filesUpTo(long bytes) {
    mostBytes = bytes;
  }

  /** Counts the next row as the one behind so many, in messages. */
  public void countFrom(long rowsBefore) {
    checker.countFrom(rowsBefore);
  }

  /** The keys of the rows, when they are to be tested. */
  public Optional<BroughtKeys> keys() {
    return keys;
  }

  /** The files that were ended so far. */
  public List<StagedFile> written() {
    return List.copyOf(staged);
  }

  /** Rows added so far. */
  public long rows() {
    return rows;
  }

  /** About the bytes of what was added. */
  public long bytes() {
    long bytes = buffer == null ? 0 : buffer.bytes();
    bytes += open == null ? 0 : open.writer.bytes();
    for (StagedFile written : staged) {
      bytes += written.size();
    }
    return bytes;
  }

  private void write(Batch batch) {
    if (batch.size() == 0) {
      return;
    }
    if (buffer == null) {
      write(batch, NOWHERE);
      return;
    }
    buffer.add(batch);
    if (buffer.isFull()) {
      Optional<PartitionBuffer.Pending> largest =
          order == null ? buffer.largest() : Optional.empty(); // sorted rows wait for all others
      if (largest.isPresent()) {
        write(largest.get());
      } else {
        runs.spill(buffer.rest());
      }
    }
  }

  /** Writes what is left of every part. */
  private void writeRest() {
    if (runs.isEmpty()) {
      buffer.rest().forEach(this::write);
      return;
    }
    runs.spill(buffer.rest());
    runs.forEach((parts, batch) -> write(batch, parts));
  }

  /** Writes the rows of one part in order. */
  private void write(PartitionBuffer.Pending pending) {
    PartitionRuns.write(pending.batch(), order, batch -> write(batch, pending.parts()));
  }

  private void write(Batch batch, Parts parts) {
    if (open != null && !open.parts.equals(parts)) {
      end();
    }
    open = open == null ? new OpenFile(parts) : open;
    open.writer.write(batch);
    if (open.writer.bytes() >= mostBytes || open.writer.rows() >= MOST_ROWS) {
      end();
    }
  }

  /** A file that is being written. */
  private final class OpenFile {
    private final UUID id = UUID.randomUUID();
    private final Parts parts;
    private final DataFileWriter writer;

    OpenFile(Parts parts) {
      this.parts = parts;
      Set<Integer> ranged = ranged(table);
      if (hidden != Hidden.NONE) {
        ranged.add(HiddenColumns.SERIAL_ID);
        ranged.add(HiddenColumns.BIRTH_ID);
      }
      this.writer =
          new DataFileWriter(
              store,
              FileEntry.objectName(table.id(), start, id),
              new DataFileWriter.Plan(
                  table.id(),
                  schema,
                  ranged,
                  table.settings().number(TableSettings.GROUP_BYTES),
                  sorted()),
              workers);
    }
  }

  private List<DataFileWriter.Sorted> sorted() {
    return order == null
        ? List.of()
        : table.form().layout().sort().stream()
            .map(by -> new DataFileWriter.Sorted(by.fieldId(), by.descending()))
            .toList();
  }

  private void end() {
    if (open == null) {
      return;
    }
    OpenFile file = open;
    DataFileWriter.Written written = file.writer.finish();
    open = null;
    Map<Integer, ColumnRange> ranges = new TreeMap<>(written.ranges());
    if (buffer != null) {
      buffer.tell(file.parts, written.rows(), ranges);
    }
    staged.add(
        new StagedFile(
            file.id,
            start,
            written.size(),
            written.rows(),
            StagedFile.Form.of(
                table.schemaVersion(), table.layoutVersion(), table.schema().lastId()),
            written.footerLength(),
            written.footerHash(),
            written.hash(),
            ranges,
            order == null ? 0 : table.layoutVersion() + 1,
            Optional.empty()));
    syncs.add(durable(file.writer));
  }

  private Future<Void> durable(DataFileWriter ended) {
    try {
      return workers.submit(
          () -> {
            try (ended) {
              ended.commit();
            }
            return null;
          });
    } catch (RuntimeException e) {
      ended.close();
      throw e;
    }
  }

  /** Waits until all files that were ended are durable; an entry may refer to them only then. */
  public void awaitDurable() {
    for (Future<Void> sync : syncs) {
      Workers.get(sync);
    }
  }

  /** The fields whose ranges a file entry carries: the first, the key's, the layout's. */
  public static Set<Integer> ranged(VersionPage table) {
    Set<Integer> ids = new LinkedHashSet<>(table.schema().keyIds());
    ids.addAll(table.form().layout().fieldIds());
    long most = table.settings().number(TableSettings.RANGED_COLUMNS);
    FieldPath.leaves(table.schema()).stream().limit(most).forEach(field -> ids.add(field.id()));
    return ids;
  }

  /** Ends the last file and returns all of them; they are durable after {@link #awaitDurable()}. */
  public List<StagedFile> finish() {
    ready();
    orEnd(
        () -> {
          flush();
          if (buffer != null) {
            writeRest();
            runs.close();
          }
          end();
        });
    finished = true;
    return List.copyOf(staged);
  }

  /** Deletes the files that were written, as far as the store lets us. */
  public void discard() {
    if (open != null) {
      tidy("a data file", open.writer::close);
      open = null;
    }
    if (runs != null) {
      runs.close();
    }
    syncs.forEach(Workers::awaitEnd);
    for (StagedFile written : staged) {
      // One that stays is in no version; a sweep finds it.
      String name = FileEntry.objectName(table.id(), written.start(), written.id());
      tidy(name, () -> store.delete(name));
    }
    staged.clear();
  }

  private static void tidy(String what, Runnable work) {
    try {
      work.run();
    } catch (YsteronException e) {
      StoreFailures.log(what, e);
    }
  }

  @Override
  public void close() {
    if (!finished) {
      discard();
    }
  }
}
