package org.ysteron.change;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.Future;
import org.ysteron.commit.LakeCore;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.StoreFailures;
import org.ysteron.error.YsteronException;
import org.ysteron.file.DataFileWriter;
import org.ysteron.file.Workers;
import org.ysteron.table.FileEntry;
import org.ysteron.table.TablePage;
import org.ysteron.table.TableProperties;

/**
 * Writes rows into new data files of a table, starting another file when one is full. Memory does
 * not grow with the rows. Nothing is in the table before the staged files are committed; closing
 * without {@link #finish()}, or {@link #discard}, deletes what was written. For one thread.
 */
public final class TableWriter implements AutoCloseable {
  private final LakeCore core;
  private final TablePage table;
  private final long start;
  private final RowChecker checker;
  private final List<TablePage.StagedFile> staged = new ArrayList<>();
  private final List<Future<Void>> syncs = new ArrayList<>();
  private DataFileWriter file;
  private UUID fileId;
  private long rows;
  private boolean finished;

  /**
   * Starts writing.
   *
   * @param table the version whose schema and properties hold
   * @param start the ledger entry that the writer starts from
   */
  public TableWriter(LakeCore core, TablePage table, long start) {
    this.core = core;
    this.table = table;
    this.start = start;
    this.checker = new RowChecker(table.schema());
  }

  /** Adds a row by all its values. */
  public void add(Object... values) {
    checker.add(values);
    rows++;
    if (checker.isFull()) {
      write(checker.take());
    }
  }

  /** Adds a row by names. */
  public void add(Row row) {
    checker.add(row);
    rows++;
    if (checker.isFull()) {
      write(checker.take());
    }
  }

  /** Adds a batch, whose columns are the table's. */
  public void add(Batch batch) {
    if (!checker.isEmpty()) {
      write(checker.take());
    }
    write(checker.check(batch));
    rows += batch.size();
  }

  /** Rows added so far. */
  public long rows() {
    return rows;
  }

  private void write(Batch batch) {
    if (batch.size() == 0) {
      return;
    }
    if (file == null) {
      fileId = UUID.randomUUID();
      file =
          new DataFileWriter(
              core.store(),
              FileEntry.objectName(table.id(), start, fileId),
              new DataFileWriter.Plan(
                  table.id(),
                  table.schema(),
                  ranged(table),
                  table.properties().get(TableProperties.GROUP_BYTES)),
              core.workers());
    }
    file.write(batch);
    if (file.bytes() >= table.properties().get(TableProperties.FILE_BYTES)) {
      endFile();
    }
  }

  private void endFile() {
    DataFileWriter.Written written = file.finish();
    staged.add(
        new TablePage.StagedFile(
            fileId,
            start,
            written.size(),
            written.rows(),
            table.schemaVersion(),
            table.schema().lastId(),
            written.footerLength(),
            written.footerHash(),
            written.hash(),
            written.ranges()));
    DataFileWriter ended = file;
    file = null;
    syncs.add(
        core.workers()
            .submit(
                () -> {
                  try (ended) {
                    ended.commit();
                  }
                  return null;
                }));
  }

  /** Waits until all files that were ended are durable; an entry may refer to them only then. */
  public void awaitDurable() {
    for (Future<Void> sync : syncs) {
      Workers.get(sync);
    }
  }

  /** The fields whose ranges a file entry carries: the first ones, and the key's. */
  static Set<Integer> ranged(TablePage table) {
    Set<Integer> ids = new LinkedHashSet<>(table.schema().keyIds());
    List<Field> leaves = new ArrayList<>();
    collect(table.schema(), leaves);
    long most = table.properties().get(TableProperties.RANGED_COLUMNS);
    leaves.stream().limit(most).forEach(field -> ids.add(field.id()));
    return ids;
  }

  private static void collect(Schema schema, List<Field> leaves) {
    schema.columns().forEach(column -> collect(column, leaves));
  }

  private static void collect(Field field, List<Field> leaves) {
    if (field.type() instanceof Type.Struct struct) {
      struct.fields().forEach(inner -> collect(inner, leaves));
    } else if (!field.type().isNested()) {
      leaves.add(field);
    }
  }

  /** Ends the last file and returns all of them; they are durable after {@link #awaitDurable()}. */
  public List<TablePage.StagedFile> finish() {
    if (!checker.isEmpty()) {
      write(checker.take());
    }
    if (file != null) {
      endFile();
    }
    finished = true;
    return List.copyOf(staged);
  }

  /** Deletes the files that were written, as far as the store lets us. */
  public void discard() {
    if (file != null) {
      file.close();
      file = null;
    }
    for (int i = 0; i < staged.size(); i++) {
      TablePage.StagedFile written = staged.get(i);
      String name = FileEntry.objectName(table.id(), written.start(), written.id());
      try {
        Workers.get(syncs.get(i));
        core.store().delete(name);
      } catch (YsteronException e) {
        // The file is in no version; a sweep finds it.
        StoreFailures.log(name, e);
      }
    }
    staged.clear();
  }

  @Override
  public void close() {
    if (!finished) {
      discard();
    }
  }
}
