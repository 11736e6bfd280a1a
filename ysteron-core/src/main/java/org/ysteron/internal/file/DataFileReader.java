package org.ysteron.internal.file;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.FutureTask;
import java.util.function.IntFunction;
import org.apache.parquet.column.page.PageReadStore;
import org.apache.parquet.filter2.columnindex.RowRanges;
import org.apache.parquet.hadoop.ParquetFileReader;
import org.apache.parquet.hadoop.metadata.BlockMetaData;
import org.apache.parquet.hadoop.metadata.ColumnChunkMetaData;
import org.apache.parquet.hadoop.metadata.ColumnPath;
import org.apache.parquet.schema.GroupType;
import org.apache.parquet.schema.MessageType;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.column.CheckedPages;
import org.ysteron.internal.column.ColumnSource;
import org.ysteron.internal.column.FileSchema;
import org.ysteron.internal.column.ParquetTypes;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.internal.text.Reason;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/**
 * Reads the rows of one data file that may pass a filter, as batches; the filter is to be applied
 * to them again. For one thread.
 */
public final class DataFileReader implements AutoCloseable {
  private static final int BATCH_ROWS = 8192;

  private final DataFile file;
  private final Type.Struct wanted;
  private final Filter filter;
  private final Footer footer;
  private final VerifiedInput input;
  private final ParquetFileReader reader;
  private final MessageType fileSchema;
  private final MessageType requested;
  private final Statistics statistics = new Statistics();
  private final RowSpan span;
  private final RoaringBitmap only;
  private int nextGroup;
  private long groupStart;
  private long position;
  private ChosenRows chosen;
  private RoaringBitmap unread = new RoaringBitmap();
  private GroupReader group;
  private ColumnSource.Context context;
  private Workers workers;
  private FutureTask<GroupReader> opening;
  private volatile boolean closing;

  /** What was skipped and read in a file. */
  public static final class Statistics {
    private long groups;
    private long groupsSkipped;
    private long pageRuns;
    private long pageRunsSkipped;
    private long rowsRead;

    public long groups() {
      return groups;
    }

    public long groupsSkipped() {
      return groupsSkipped;
    }

    /** Runs of rows between page boundaries that were tested. */
    public long pageRuns() {
      return pageRuns;
    }

    public long pageRunsSkipped() {
      return pageRunsSkipped;
    }

    public long rowsRead() {
      return rowsRead;
    }
  }

  /**
   * Opens a file.
   *
   * @param tableId the table whose field ids the file must use
   * @param wanted the columns to read; those that the file lacks read as their old default or null
   * @param filter skips row groups and pages
   */
  public DataFileReader(
      ObjectStore store,
      DataFile file,
      UUID tableId,
      Type.Struct wanted,
      Filter filter,
      FooterCache footers) {
    this(store, file, tableId, wanted, filter, footers, new RowSpan(0, file.rows()), null);
  }

  /**
   * Opens a file to read some of its rows only.
   *
   * @param span the positions that are meant
   * @param only the positions of the rows that are needed, a few around which are read, too; null
   *     for all that the filter leaves
   */
  public DataFileReader(
      ObjectStore store,
      DataFile file,
      UUID tableId,
      Type.Struct wanted,
      Filter filter,
      FooterCache footers,
      RowSpan span,
      RoaringBitmap only) {
    this.span = span;
    this.only = only;
    this.file = file;
    this.wanted = wanted;
    this.filter = filter;
    ObjectInput opened = Footer.open(store, file);
    try {
      this.footer = footers.get(opened, file, tableId);
      this.input = new VerifiedInput(file.name(), opened, footer.sums());
      this.fileSchema =
          FileSchema.named(footer.metadata().getFileMetaData().getSchema(), file.ids());
      this.reader = ParquetFileReader.open(input, footer.metadata(), Footer.OPTIONS, input);
      this.requested = FileSchema.project(fileSchema, wanted.fields());
      reader.setRequestedSchema(requested);
    } catch (IOException | RuntimeException | LinkageError e) {
      opened.close();
      throw failed(e);
    }
  }

  /** The row groups of a file, in order. */
  public static List<RowSpan> groups(
      ObjectStore store, DataFile file, UUID tableId, FooterCache footers) {
    List<RowSpan> groups = new ArrayList<>();
    try (ObjectInput input = Footer.open(store, file)) {
      long start = 0;
      for (BlockMetaData block : footers.get(input, file, tableId).metadata().getBlocks()) {
        groups.add(new RowSpan(start, start + block.getRowCount()));
        start += block.getRowCount();
      }
    }
    return groups;
  }

  /** The columns of a file as it was written, by its own field ids. */
  public static Schema schemaOf(
      ObjectStore store, DataFile file, UUID tableId, FooterCache footers) {
    try (ObjectInput input = Footer.open(store, file)) {
      String json =
          footers
              .get(input, file, tableId)
              .metadata()
              .getFileMetaData()
              .getKeyValueMetaData()
              .get(DataFileWriter.SCHEMA_KEY);
      if (json == null) {
        throw DamagedException.of(
            file.name(), "Data file " + file.name() + " does not tell its columns.", null);
      }
      return SchemaJson.fromJson((Map<?, ?>) Json.parse(json));
    }
  }

  /**
   * Has the columns that the filter tests read first, and the others only where rows pass: batches
   * then have the rows alone that count and pass, and {@link #selected} says which they are. Where
   * columns are decoded {@linkplain #sideBySide side by side}, the filter must be trivial.
   *
   * @param test applied to the rows
   * @param live which rows count
   * @param masked rows that do not count, whose pages need not be read
   * @param outputs how many of the wanted columns batches are to have
   * @param carries whether batches may have other rows, too; {@link #kept} tells which count
   */
  public void choosing(
      Filter test, ChosenRows.LiveRows live, RoaringBitmap masked, int outputs, boolean carries) {
    chosen = new ChosenRows(test, live, wanted, outputs, carries);
    unread = masked;
  }

  /**
   * Of the rows from {@link #position} on those that the batch that was read last has; null for
   * all.
   */
  public long[] selected() {
    return chosen == null ? null : chosen.selected();
  }

  /** The rows of the batch that was read last that count; null for all. */
  public int[] kept() {
    return chosen == null ? null : chosen.kept();
  }

  /** Has workers decode columns side by side with who reads. */
  public void sideBySide(Workers beside) {
    workers = beside;
  }

  public Statistics statistics() {
    return statistics;
  }

  /** Bytes fetched from the store so far, without the footer. */
  public long bytesRead() {
    return input.bytesRead();
  }

  /** The next batch; empty at the end. */
  public Optional<Batch> next() {
    try {
      while (true) {
        Optional<Batch> batch = group == null ? Optional.empty() : group.next();
        if (batch.isPresent()) {
          statistics.rowsRead += batch.get().size();
          return batch;
        }
        if (group != null) {
          group.close();
        }
        group = opening == null ? openNext() : opened();
        if (group == null) {
          return Optional.empty();
        }
      }
    } catch (IOException | RuntimeException | LinkageError e) {
      throw failed(e);
    }
  }

  /** Has a worker open the next row group while this one is decoded. */
  private void openBeside() {
    if (opening == null) {
      opening = new FutureTask<>(() -> closing ? null : openNext());
      workers.begin(opening);
    }
  }

  private GroupReader opened() {
    FutureTask<GroupReader> taken = opening;
    taken.run(); // which does nothing when a worker has begun it
    GroupReader next = Workers.get(taken);
    opening = null;
    return next;
  }

  /** The next row group of which rows are wanted; null at the end. */
  private GroupReader openNext() throws IOException {
    GroupReader next = null;
    while (next == null && nextGroup < footer.metadata().getBlocks().size()) {
      next = openGroup(nextGroup);
      groupStart += footer.metadata().getBlocks().get(nextGroup++).getRowCount();
    }
    return next;
  }

  /** The position in the file of the first row of the batch that was read last. */
  public long position() {
    return position;
  }

  /** Plans without reading rows: counts the row groups and page runs that a filter leaves. */
  public Statistics explain() {
    try {
      for (int i = 0; i < footer.metadata().getBlocks().size(); i++) {
        prune(i);
        groupStart += footer.metadata().getBlocks().get(i).getRowCount();
      }
      return statistics;
    } catch (IOException | RuntimeException | LinkageError e) {
      throw failed(e);
    }
  }

  private YsteronException failed(Throwable e) {
    if (e instanceof YsteronException known) {
      return known;
    }
    if (e instanceof IOException || e instanceof UncheckedIOException) {
      return new YsteronException(
          "Data file %s could not be read: %s".formatted(file.name(), Reason.of(e)), e);
    }
    return DamagedException.of(
        file.name(), "Data file %s cannot be decoded: %s".formatted(file.name(), Reason.of(e)), e);
  }

  /** The rows of a row group to read; empty for none. */
  private List<RowSpan> prune(int number) throws IOException {
    BlockMetaData block = footer.metadata().getBlocks().get(number);
    List<RowSpan> all = List.of(new RowSpan(0, block.getRowCount()));
    if (span.common(all, groupStart).isEmpty()) {
      return List.of();
    }
    statistics.groups++;
    List<RowSpan> rows = span.common(pruned(block, all), groupStart);
    return unread.isEmpty() ? rows : PagePruner.without(unread, groupStart, rows);
  }

  private List<RowSpan> pruned(BlockMetaData block, List<RowSpan> all) throws IOException {
    if (only != null) {
      List<RowSpan> rows = PagePruner.around(only, groupStart, block.getRowCount());
      statistics.groupsSkipped += rows.isEmpty() ? 1 : 0;
      return rows;
    }
    if (filter.isTrivial()) {
      return all;
    }
    Map<Integer, ColumnChunkMetaData> chunks = chunks(block);
    IntFunction<ColumnRange> ranges =
        id -> {
          ColumnChunkMetaData chunk = chunks.get(id);
          Field field = filter.columns().get(id);
          if (field.type().isNested()) {
            return ColumnRange.UNKNOWN;
          }
          return chunk == null
              ? ColumnRange.ABSENT
              : StatisticRanges.of(
                  ParquetTypes.held(chunk.getPrimitiveType(), field.type()),
                  chunk.getStatistics(),
                  block.getRowCount());
        };
    Verdict verdict = filter.test(ranges::apply);
    if (verdict == Verdict.NONE) {
      statistics.groupsSkipped++;
      return List.of();
    }
    if (verdict == Verdict.ALL) {
      return all;
    }
    if (filter.asksForValues() && !filter.mayHold(new BloomValues(reader, chunks))) {
      statistics.groupsSkipped++;
      return List.of();
    }
    PagePruner pruner = new PagePruner(reader, input, block, chunks, filter);
    List<RowSpan> rows = pruner.prune(filter, ranges);
    statistics.pageRuns += pruner.pagesKept() + pruner.pagesSkipped();
    statistics.pageRunsSkipped += pruner.pagesSkipped();
    return rows;
  }

  private GroupReader openGroup(int number) throws IOException {
    List<RowSpan> rows = prune(number);
    if (rows.isEmpty()) {
      return null;
    }
    BlockMetaData block = footer.metadata().getBlocks().get(number);
    boolean all = rows.size() == 1 && rows.get(0).to() - rows.get(0).from() == block.getRowCount();
    PageReadStore pages;
    if (all || fileSchema.getColumns().isEmpty()) {
      pages = reader.readRowGroup(number);
    } else {
      for (ColumnChunkMetaData chunk : block.getColumns()) {
        if (requested.containsPath(chunk.getPath().toArray())) {
          input.check(chunk.getOffsetIndexReference());
        }
      }
      RowRanges.Builder ranges = RowRanges.builder();
      rows.forEach(run -> ranges.addSelectedRange(run.from(), run.to() - 1));
      pages = reader.readFilteredRowGroup(number, ranges.build());
    }
    return new GroupReader(pages, rows, groupStart);
  }

  /** The chunks of leaves that are below no list or map, by field id. */
  private Map<Integer, ColumnChunkMetaData> chunks(BlockMetaData block) {
    Map<ColumnPath, Integer> ids = new HashMap<>();
    collect(fileSchema, new ArrayList<>(), ids);
    Map<Integer, ColumnChunkMetaData> chunks = new HashMap<>();
    for (ColumnChunkMetaData chunk : block.getColumns()) {
      Integer id = ids.get(chunk.getPath());
      if (id != null) {
        chunks.put(id, chunk);
      }
    }
    return chunks;
  }

  private static void collect(GroupType group, List<String> above, Map<ColumnPath, Integer> ids) {
    for (org.apache.parquet.schema.Type type : group.getFields()) {
      List<String> path = new ArrayList<>(above);
      path.add(type.getName());
      if (type.isRepetition(org.apache.parquet.schema.Type.Repetition.REPEATED)) {
        continue;
      }
      if (!type.isPrimitive()) {
        collect(type.asGroupType(), path, ids);
      } else if (type.getId() != null) {
        ids.put(ColumnPath.get(path.toArray(String[]::new)), type.getId().intValue());
      }
    }
  }

  @Override
  public void close() {
    closing = true;
    try {
      if (group != null) {
        group.close();
      }
      if (opening != null) {
        opening.run();
        Workers.awaitEnd(opening);
      }
      reader.close();
    } catch (IOException e) {
      throw failed(e);
    }
  }

  /** Batches of one row group. */
  private final class GroupReader {
    private final List<RowSpan> batches = new ArrayList<>();
    private final List<ColumnSource> sources = new ArrayList<>();
    private final long start;
    private final CheckedPages pages;
    private final ColumnsAhead ahead;
    private int next;
    private boolean isClosed;

    GroupReader(PageReadStore pages, List<RowSpan> rows, long start) {
      this.start = start;
      for (RowSpan run : rows) {
        for (long from = run.from(); from < run.to(); from += BATCH_ROWS) {
          batches.add(new RowSpan(from, Math.min(from + BATCH_ROWS, run.to())));
        }
      }
      this.pages = new CheckedPages(pages);
      context =
          new ColumnSource.Context(
              this.pages, fileSchema, footer.metadata().getFileMetaData().getCreatedBy(), context);
      for (Field field : wanted.fields()) {
        sources.add(ColumnSource.of(field, fileSchema, context));
      }
      ahead = workers == null ? null : new ColumnsAhead(workers, sources, batches);
    }

    Optional<Batch> next() {
      while (next < batches.size()) {
        RowSpan rows = batches.get(next++);
        int count = (int) (rows.to() - rows.from());
        if (ahead != null && next > batches.size() / 2) {
          openBeside();
        }
        position = start + rows.from();
        List<Vector> vectors = ahead == null ? null : ahead.take();
        if (chosen == null) {
          List<Vector> all = vectors == null ? read(rows.from(), count) : vectors;
          return Optional.of(new Batch(wanted, count, all));
        }
        Optional<Batch> batch =
            vectors == null
                ? chosen.read(sources, rows.from(), count, position)
                : chosen.keep(vectors, count, position);
        if (batch.isPresent()) {
          return batch;
        }
      }
      return Optional.empty();
    }

    private List<Vector> read(long from, int count) {
      List<Vector> vectors = new ArrayList<>();
      for (ColumnSource source : sources) {
        vectors.add(source.read(from, count));
      }
      return vectors;
    }

    void close() {
      if (isClosed) {
        return;
      }
      isClosed = true;
      if (ahead != null) {
        ahead.close();
      }
      pages.close();
    }
  }
}
