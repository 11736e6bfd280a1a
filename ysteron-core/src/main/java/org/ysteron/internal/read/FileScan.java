package org.ysteron.internal.read;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;

/**
 * The rows of one file that count and pass, in the columns wanted, and where in the file they are.
 * {@link HiddenColumns} may be among those wanted. For one thread.
 */
public final class FileScan implements BatchSource {
  private final ObjectStore store;
  private final FooterCache footers;
  private final FileTask task;
  private final Schema wanted;
  private final Filter filter;
  private final boolean narrow;
  private final Schema fetched;
  private final RoaringBitmap only;
  private final PeekableIntIterator listed;
  private Filter pruner;
  private Workers workers;
  private boolean carries;
  private DataFileReader reader;
  private long first;
  private int[] positions;

  /** All rows that pass. */
  public FileScan(ReadContext context, ScanPlan.Task task, Schema wanted, Filter filter) {
    this(context, task, wanted, filter, null);
  }

  /** Rows that pass, of those at some positions; of all for null. */
  public FileScan(
      ReadContext context, ScanPlan.Task task, Schema wanted, Filter filter, RoaringBitmap only) {
    this(
        context.store(),
        context.footers(),
        FileTask.of(task, context.pages()),
        wanted,
        filter,
        only);
  }

  /** All rows of a file that count. */
  public static FileScan all(
      ReadContext context, VersionPage table, FileEntry entry, Schema wanted) {
    return pruned(context, table, entry, wanted, Filter.bind(Condition.all(), table.schema()));
  }

  /** The rows at some positions, whichever they are; no filter is applied to them. */
  public static FileScan at(
      ReadContext context, VersionPage table, FileEntry entry, Schema wanted, RoaringBitmap rows) {
    Filter all = Filter.bind(Condition.all(), table.schema());
    ScanPlan.Task task = new ScanPlan.Task(table, entry, false);
    return new FileScan(context, task, wanted, all, rows);
  }

  /** The rows that are left when a filter has skipped what it can; it is not applied to them. */
  public static FileScan pruned(
      ReadContext context, VersionPage table, FileEntry entry, Schema wanted, Filter filter) {
    ScanPlan.Task task = new ScanPlan.Task(table, entry, false);
    FileScan scan = new FileScan(context, task, wanted, filter, null);
    scan.pruner = filter;
    return scan;
  }

  /**
   * Rows of a file, wherever its task comes from.
   *
   * @param only the positions of the rows that are meant; null for all
   */
  public FileScan(
      ObjectStore store,
      FooterCache footers,
      FileTask task,
      Schema wanted,
      Filter filter,
      RoaringBitmap only) {
    this.only = only == null ? null : RoaringBitmap.andNot(only, task.masked());
    this.listed = (only == null ? task.masked() : this.only).getIntIterator();
    this.store = store;
    this.footers = footers;
    this.task = task;
    this.wanted = wanted;
    this.filter = task.filtered() ? filter : Filter.bind(Condition.all(), task.schema());
    this.pruner = this.filter;
    this.fetched = task.filtered() ? withTested(task.schema(), wanted, filter) : wanted;
    this.narrow = !fetched.columns().equals(wanted.columns());
  }

  /** Has workers decode columns side by side with who reads. */
  void sideBySide(Workers beside) {
    workers = beside;
  }

  /** Has batches be left as they are read, where many of their rows pass. */
  void carrying() {
    carries = true;
  }

  /** The wanted columns and, behind them, the whole columns that the filter tests beside them. */
  private static Schema withTested(Schema schema, Schema wanted, Filter filter) {
    Set<Integer> whole = new LinkedHashSet<>();
    for (Field column : schema.columns()) {
      if (filter.tests(column)) {
        whole.add(column.id());
      }
    }
    List<Field> fields = new ArrayList<>();
    for (Field column : wanted.columns()) {
      Field full = schema.field(column.id()).orElse(column);
      fields.add(whole.remove(column.id()) ? full : column);
    }
    for (int id : whole) {
      fields.add(schema.field(id).orElseThrow());
    }
    return Schema.stored(fields, List.of(), schema.lastId());
  }

  @Override
  public Optional<Batch> next() {
    try {
      return read();
    } catch (ComputeException e) {
      String table = "%s, version %d".formatted(task.name(), task.version());
      throw e.inFile(reader.position(), task.number(), table);
    } catch (DamagedException e) {
      if (e.getCause() instanceof MissingObjectException) {
        RuntimeException missing = task.missing().apply(e);
        if (missing != e) {
          throw missing;
        }
      }
      throw DamagedException.of(
          e.objectName().orElse(task.file().name()),
          "Table %s, version %d, file %d: %s"
              .formatted(task.name(), task.version(), task.number(), e.getMessage()),
          e);
    }
  }

  private Optional<Batch> read() {
    if (reader == null) {
      reader =
          new DataFileReader(
              store,
              task.file(),
              task.table(),
              fetched.struct(),
              pruner,
              footers,
              task.span(),
              only);
      reader.sideBySide(workers);
      if (task.filtered() || only != null || !task.masked().isEmpty()) {
        reader.choosing(filter, this::live, task.masked(), wanted.columns().size(), carries);
      }
    }
    Optional<Batch> batch = reader.next();
    first = reader.position();
    positions = null;
    return batch.map(this::narrowed);
  }

  /** The rows from a position on that count and are meant. */
  private int live(long position, int count, int[] rows) {
    listed.advanceIfNeeded((int) position);
    return only == null ? unmasked(position, count, rows) : meant(position, count, rows);
  }

  private int meant(long position, int count, int[] rows) {
    int live = 0;
    while (listed.hasNext() && listed.peekNext() < position + count) {
      rows[live++] = (int) (listed.next() - position);
    }
    return live;
  }

  private int unmasked(long position, int count, int[] rows) {
    int live = 0;
    int next = 0;
    while (listed.hasNext() && listed.peekNext() < position + count) {
      int gone = (int) (listed.next() - position);
      while (next < gone) {
        rows[live++] = next++;
      }
      next++;
    }
    while (next < count) {
      rows[live++] = next++;
    }
    return live;
  }

  /** The rows with where they are, in the order of their positions. */
  public Source<FileRows> located(FileEntry file) {
    return rows(file, true);
  }

  /** The rows, and where they are only when that is wanted. */
  Source<FileRows> rows(FileEntry file, boolean placed) {
    int columns = HiddenColumns.count(wanted);
    FileScan scan = this;
    return new Source<>() {
      @Override
      public Optional<FileRows> next() {
        return scan.next()
            .map(
                batch ->
                    placed
                        ? new FileRows(file, batch, columns, first, reader.selected())
                        : FileRows.unplaced(file, batch, columns, reader.kept()));
      }

      @Override
      public void close() {
        scan.close();
      }
    };
  }

  /** The position in the file of a row of the batch that was read last. */
  public int position(int row) {
    long[] selected = reader.selected();
    if (selected == null) {
      return (int) first + row;
    }
    if (positions == null) {
      positions = Gather.positions(selected);
    }
    return (int) first + positions[row];
  }

  private Batch narrowed(Batch passing) {
    if (!narrow) {
      return passing;
    }
    List<Vector> vectors = new ArrayList<>();
    for (int i = 0; i < wanted.columns().size(); i++) {
      vectors.add(narrow(passing.vectors().get(i), wanted.columns().get(i).type()));
    }
    return new Batch(wanted.struct(), passing.size(), vectors);
  }

  /** Takes the fields of a struct away that were read for the filter only. */
  private static Vector narrow(Vector vector, Type type) {
    if (vector.type().equals(type) || !(vector instanceof Vector.OfStruct struct)) {
      return vector;
    }
    Type.Struct full = (Type.Struct) struct.type();
    List<Vector> inner = new ArrayList<>();
    for (Field field : ((Type.Struct) type).fields()) {
      int at = full.indexOf(field.name());
      inner.add(narrow(struct.fields().get(at), field.type()));
    }
    return new Vector.OfStruct(type, struct.size(), inner, struct.nulls());
  }

  @Override
  public void close() {
    if (reader != null) {
      reader.close();
    }
  }
}
