package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.DataFileWriter;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.TableSettings;

/**
 * Writes a data file anew without the values of some of its rows, of all columns that it has, by
 * its own field ids. Every other row stays where it is. In the place of a row that is erased stands
 * once more the row before it that is left, or else the one after it, under its own serial and
 * birth: so the file stays in its order and its part, no column gets a null that it may not have,
 * and nothing is in it that was not. For one thread.
 */
final class FileRewrite {
  private final LakeCore core;
  private final VersionPage table;
  private final FileEntry entry;
  private final RoaringBitmap erased;
  private final Schema schema;
  private final DataFile raw;
  private final long start;
  private Batch last;

  /**
   * Of a file.
   *
   * @param table the table as it is now
   * @param erased the positions of the rows, not of all
   * @param start the ledger entry from which this started
   */
  FileRewrite(LakeCore core, VersionPage table, FileEntry entry, RoaringBitmap erased, long start) {
    this.core = core;
    this.table = table;
    this.entry = entry;
    this.erased = erased;
    this.start = start;
    this.raw =
        new DataFile(
            entry.objectName(table.id()),
            entry.size(),
            entry.rows(),
            entry.numbers().footerLength(),
            entry.footerHash(),
            new FieldIds(Long.MAX_VALUE, Map.of()));
    this.schema = DataFileReader.schemaOf(core.store(), raw, table.id(), core.reading().footers());
  }

  /** Writes it; it is durable then. */
  StagedFile run() {
    UUID id = UUID.randomUUID();
    try (DataFileReader reader = reader();
        DataFileWriter writer =
            new DataFileWriter(
                core.store(),
                FileEntry.objectName(table.id(), start, id),
                plan(),
                core.workers())) {
      reader.sideBySide(core.workers());
      for (Optional<Batch> batch = reader.next(); batch.isPresent(); batch = reader.next()) {
        write(batch.get(), reader.position(), writer);
      }
      DataFileWriter.Written written = writer.finish();
      writer.commit();
      return staged(id, written);
    }
  }

  private DataFileWriter.Plan plan() {
    Set<Integer> ranged = new HashSet<>();
    Set<Integer> told = entry.trackedRanges().keySet();
    for (Field field : schema.columns()) {
      ranged(field, told, ranged);
    }
    return new DataFileWriter.Plan(
        table.id(),
        schema,
        ranged,
        table.settings().number(TableSettings.GROUP_BYTES),
        sorted(core.pages()));
  }

  /** The fields whose ranges the entry tells, by the ids that the file has for them. */
  private void ranged(Field field, Set<Integer> told, Set<Integer> ranged) {
    if (told.contains(entry.fieldIds().inTable(field.id()))) {
      ranged.add(field.id());
    }
    Schema.children(field.type()).forEach(inner -> ranged(inner, told, ranged));
  }

  private List<DataFileWriter.Sorted> sorted(PageStore pages) {
    long order = entry.numbers().writtenBy().order();
    Layout layout = table.layouts(pages).get(order - 1);
    return layout == null || !entry.fieldIds().others().isEmpty()
        ? List.of()
        : layout.sort().stream()
            .map(by -> new DataFileWriter.Sorted(by.fieldId(), by.descending()))
            .toList();
  }

  private void write(Batch batch, long position, DataFileWriter writer) {
    int[] sources = sources(batch.size(), position);
    if (sources == null) {
      last = last == null ? firstLeft() : last;
      writer.write(standingIn(last, batch));
      return;
    }
    writer.write(withHiddenOf(Gather.rows(batch, sources), batch));
    last = Gather.rows(batch, new int[] {sources[sources.length - 1]});
  }

  /** The first row that is left, when it is so far behind that its batch has not come yet. */
  private Batch firstLeft() {
    try (DataFileReader reader = reader()) {
      for (Optional<Batch> batch = reader.next(); batch.isPresent(); batch = reader.next()) {
        int[] sources = sources(batch.get().size(), reader.position());
        if (sources != null) {
          return Gather.rows(batch.get(), new int[] {sources[0]});
        }
      }
    }
    throw new IllegalStateException("no row of " + raw.name() + " is left");
  }

  private DataFileReader reader() {
    Filter all = Filter.bind(Condition.all(), schema);
    return new DataFileReader(
        core.store(), raw, table.id(), schema.struct(), all, core.reading().footers());
  }

  /** Which row stands in the place of each; null when none is left. */
  private int[] sources(int size, long position) {
    int[] sources = new int[size];
    int before = -1;
    int pending = 0;
    for (int row = 0; row < size; row++) {
      if (!erased.contains((int) position + row)) {
        before = row;
        for (; pending > 0; pending--) {
          sources[row - pending] = row;
        }
      } else if (before < 0) {
        pending++;
      }
      sources[row] = before;
    }
    return before < 0 ? null : sources;
  }

  /** One row in the place of each of a batch. */
  private Batch standingIn(Batch one, Batch batch) {
    return withHiddenOf(Gather.rows(one, new int[batch.size()]), batch);
  }

  /** Serials and births stay with their place. */
  private Batch withHiddenOf(Batch values, Batch own) {
    List<Vector> vectors = new ArrayList<>(values.vectors());
    for (int i = 0; i < vectors.size(); i++) {
      if (Layout.isReserved(schema.columns().get(i).id())) {
        vectors.set(i, own.vectors().get(i));
      }
    }
    return new Batch(schema.struct(), own.size(), vectors);
  }

  private StagedFile staged(UUID id, DataFileWriter.Written written) {
    Map<Integer, ColumnRange> ranges = new TreeMap<>();
    written.ranges().forEach((field, range) -> ranges.put(entry.fieldIds().inTable(field), range));
    return new StagedFile(
        id,
        start,
        written.size(),
        written.rows(),
        new StagedFile.Form(
            entry.numbers().writtenBy().schema(),
            entry.numbers().writtenBy().layout(),
            entry.fieldIds()),
        written.footerLength(),
        written.footerHash(),
        written.hash(),
        ranges,
        entry.numbers().writtenBy().order(),
        Optional.empty());
  }
}
