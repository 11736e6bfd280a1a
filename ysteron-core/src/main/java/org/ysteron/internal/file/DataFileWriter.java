package org.ysteron.internal.file;

import java.io.IOException;
import java.util.AbstractMap;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnWriteStore;
import org.apache.parquet.column.ParquetProperties;
import org.apache.parquet.format.SortingColumn;
import org.apache.parquet.hadoop.ColumnChunkPageWriteStore;
import org.apache.parquet.hadoop.ParquetFileWriter;
import org.apache.parquet.hadoop.metadata.BlockMetaData;
import org.apache.parquet.hadoop.metadata.ColumnChunkMetaData;
import org.apache.parquet.hadoop.metadata.CompressionCodecName;
import org.apache.parquet.schema.GroupType;
import org.apache.parquet.schema.MessageType;
import org.apache.parquet.schema.Type;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.column.Codecs;
import org.ysteron.internal.column.ParquetTypes;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/**
 * Writes one data file from batches, a column at a time and several columns at once. Memory is
 * about one row group. For one thread; it uses others.
 */
public final class DataFileWriter implements AutoCloseable {
  /** The key of the footer's metadata that names the table whose field ids the file uses. */
  static final String TABLE_KEY = "ysteron.table";

  /** The key of the columns, as JSON. */
  static final String SCHEMA_KEY = "ysteron.schema";

  private static final int INDEX_BYTES = 64;
  private static final int PAGE_ROWS = 20_000;
  private static final int PAGE_BYTES = 1 << 20;

  private final Schema schema;
  private final Set<Integer> ranged;
  private final List<Sorted> sorted;
  private final long groupBytes;
  private final Workers workers;
  private final UUID tableId;
  private final ObjectOutput target;
  private final HashingOutput output;
  private final MessageType message;
  private final ParquetProperties properties;
  private final ParquetFileWriter file;
  private ColumnChunkPageWriteStore pages;
  private List<Shredder> leaves = List.of();
  private Map<ColumnDescriptor, KeyFilter> filters = Map.of();
  private long groupRows;
  private long rows;

  /**
   * What a file was written by.
   *
   * @param tableId the table whose field ids it uses
   * @param schema its columns
   * @param ranged the fields whose ranges are wanted
   * @param groupBytes where a row group ends, about
   * @param sorted the columns that the rows are sorted by, nulls last; empty for none
   * @param isTemporary whether only its writer reads it, soon and once, from its first row on
   */
  public record Plan(
      UUID tableId,
      Schema schema,
      Set<Integer> ranged,
      long groupBytes,
      List<Sorted> sorted,
      boolean isTemporary) {

    /** A file that others read. */
    public Plan(
        UUID tableId, Schema schema, Set<Integer> ranged, long groupBytes, List<Sorted> sorted) {
      this(tableId, schema, ranged, groupBytes, sorted, false);
    }

    /** A file that is read by its writer, soon and once. */
    public static Plan temporary(UUID id, Schema schema, long groupBytes) {
      return new Plan(id, schema, Set.of(), groupBytes, List.of(), true);
    }
  }

  /** A column that rows are sorted by. */
  public record Sorted(int fieldId, boolean descending) {}

  /**
   * What was written.
   *
   * @param size bytes
   * @param rows rows
   * @param footerLength bytes of the footer
   * @param footerHash SHA-256 from the footer on
   * @param hash SHA-256 of all
   * @param ranges by field id
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
  public record Written(
      long size,
      long rows,
      long footerLength,
      byte[] footerHash,
      byte[] hash,
      Map<Integer, ColumnRange> ranges) {}

  public DataFileWriter(ObjectStore store, String name, Plan plan, Workers workers) {
    this.schema = plan.schema();
    this.ranged = plan.ranged();
    this.groupBytes = plan.groupBytes();
    this.tableId = plan.tableId();
    this.sorted = plan.sorted();
    this.workers = workers;
    this.message = ParquetTypes.message(schema);
    this.properties = properties(plan.isTemporary());
    this.target = store.put(name);
    this.output = new HashingOutput(target);
    try {
      this.file =
          new ParquetFileWriter(
              output.asFile(),
              message,
              ParquetFileWriter.Mode.CREATE,
              groupBytes,
              0,
              INDEX_BYTES,
              INDEX_BYTES,
              true);
      file.start();
      startGroup();
    } catch (IOException e) {
      target.close();
      throw failed(e);
    } catch (RuntimeException | Error e) {
      target.close();
      throw e;
    }
  }

  private static YsteronException failed(IOException e) {
    return new YsteronException("A data file could not be written: " + e.getMessage(), e);
  }

  /** Dictionaries and statistics cost more than they save in a file that is read once. */
  private static ParquetProperties properties(boolean isTemporary) {
    return ParquetProperties.builder()
        .withWriterVersion(ParquetProperties.WriterVersion.PARQUET_1_0)
        .withAllocator(HeapByteBufferAllocator.getInstance())
        .withValuesWriterFactory(new Encodings())
        .withPageSize(PAGE_BYTES)
        .withPageRowCountLimit(PAGE_ROWS)
        .withColumnIndexTruncateLength(INDEX_BYTES)
        .withStatisticsTruncateLength(INDEX_BYTES)
        .withSizeStatisticsEnabled(false)
        .withPageWriteChecksumEnabled(true)
        .withDictionaryEncoding(!isTemporary)
        .withStatisticsEnabled(!isTemporary)
        .build();
  }

  private void startGroup() {
    pages =
        new ColumnChunkPageWriteStore(
            Codecs.SHARED.getCompressor(CompressionCodecName.ZSTD),
            message,
            HeapByteBufferAllocator.getInstance(),
            INDEX_BYTES,
            true);
    filters = new LinkedHashMap<>();
    List<Shredder> made = new ArrayList<>();
    List<ColumnDescriptor> descriptors = message.getColumns(); // made anew at each call
    int leaf = 0;
    for (int c = 0; c < schema.columns().size(); c++) {
      for (List<Shredder.Step> path : Shredder.paths(schema.columns().get(c))) {
        ColumnDescriptor descriptor = descriptors.get(leaf++);
        ColumnWriteStore store =
            properties.newColumnWriteStore(branch(descriptor.getPath()), pages, pages);
        made.add(new Shredder(store, store.getColumnWriter(descriptor), c, path));
        if (schema.keyIds().contains(path.get(0).field().id())) {
          filters.put(descriptor, new KeyFilter());
        }
      }
    }
    leaves = made;
    groupRows = 0;
  }

  /** The schema of one leaf only. */
  private MessageType branch(String[] path) {
    return new MessageType(message.getName(), branch(message, path, 0));
  }

  private static Type branch(GroupType group, String[] path, int depth) {
    Type next = group.getType(path[depth]);
    return next.isPrimitive()
        ? next
        : next.asGroupType().withNewFields(branch(next.asGroupType(), path, depth + 1));
  }

  /** Rows written so far. */
  public long rows() {
    return rows;
  }

  /** About the bytes that the file would have if it ended now. */
  public long bytes() {
    return output.getPos() + buffered();
  }

  private long buffered() {
    long bytes = 0;
    for (Shredder leaf : leaves) {
      bytes += leaf.store().getBufferedSize();
    }
    return bytes;
  }

  /** Adds the rows of a batch, whose columns are those of the schema in its order. */
  public void write(Batch batch) {
    List<Runnable> tasks = new ArrayList<>();
    for (Shredder leaf : leaves) {
      tasks.add(() -> leaf.write(batch.vectors().get(leaf.column()), 0, batch.size()));
    }
    filters.forEach(
        (column, filter) -> {
          int at = schema.indexOf(column.getPath()[0]);
          tasks.add(() -> filter.add(batch.vectors().get(at)));
        });
    workers.runAll(tasks);
    groupRows += batch.size();
    rows += batch.size();
    if (buffered() >= groupBytes) {
      endGroup();
      startGroup();
    }
  }

  private void endGroup() {
    if (groupRows == 0) {
      return;
    }
    workers.runAll(leaves.stream().<Runnable>map(leaf -> leaf.store()::flush).toList());
    filters.forEach(
        (column, filter) ->
            filter.end().ifPresent(pages.getBloomFilterWriter(column)::writeBloomFilter));
    try {
      file.startBlock(groupRows);
      pages.flushToFileWriter(file);
      file.endBlock();
    } catch (IOException e) {
      throw failed(e);
    }
    closeGroup();
    groupRows = 0;
  }

  private void closeGroup() {
    leaves.forEach(leaf -> leaf.store().close());
    pages.close();
    leaves = List.of();
  }

  /** Ends the file; it is there, and lasts, only after {@link #commit()}. */
  public Written finish() {
    endGroup();
    try {
      file.end(new FooterMetadata());
      byte[] footer = output.heldFooter();
      List<SortingColumn> sorting = sortingColumns();
      boolean finished = sorting.isEmpty() && !hasNaN();
      output.endFooter(finished ? footer : FooterFinish.of(footer, sorting));
    } catch (IOException e) {
      throw failed(e);
    }
    Map<Integer, ColumnRange> ranges = ranges();
    return new Written(
        target.position(), rows, output.footerLength(), output.footerHash(), output.hash(), ranges);
  }

  private boolean hasNaN() {
    return file.getFooter().getBlocks().stream()
        .flatMap(block -> block.getColumns().stream())
        .map(ColumnChunkMetaData::getStatistics)
        .anyMatch(chunk -> chunk != null && chunk.isNanCountSet() && chunk.getNanCount() > 0);
  }

  /** The leaves that the rows are sorted by, up to the first that is not in the file. */
  private List<SortingColumn> sortingColumns() {
    List<SortingColumn> sorting = new ArrayList<>();
    for (Sorted by : sorted) {
      int leaf = 0;
      int found = -1;
      for (Field column : schema.columns()) {
        for (List<Shredder.Step> path : Shredder.paths(column)) {
          found = path.get(path.size() - 1).field().id() == by.fieldId() ? leaf : found;
          leaf++;
        }
      }
      if (found < 0) {
        break;
      }
      sorting.add(new SortingColumn(found, by.descending(), false));
    }
    return sorting;
  }

  /** Makes the ended file durable. May run on another thread. */
  public void commit() {
    target.commit();
  }

  private Map<Integer, ColumnRange> ranges() {
    Map<Integer, ColumnRange> ranges = new TreeMap<>();
    for (BlockMetaData block : file.getFooter().getBlocks()) {
      int leaf = 0;
      for (Field column : schema.columns()) {
        for (List<Shredder.Step> path : Shredder.paths(column)) {
          ColumnChunkMetaData chunk = block.getColumns().get(leaf++);
          Field field = path.get(path.size() - 1).field();
          boolean repeated =
              path.stream().anyMatch(step -> step.child() >= 0 && !isStruct(step.field()));
          if (ranged.contains(field.id()) && !repeated) {
            ColumnRange range =
                StatisticRanges.of(field.type(), chunk.getStatistics(), block.getRowCount());
            ranges.merge(field.id(), range, ColumnRange::unite);
          }
        }
      }
    }
    return ranges;
  }

  private static boolean isStruct(Field field) {
    return field.type() instanceof org.ysteron.data.Type.Struct;
  }

  /** Gives up what was not finished. */
  @Override
  public void close() {
    try {
      if (!leaves.isEmpty()) {
        closeGroup();
      }
    } finally {
      target.close();
    }
  }

  /**
   * The footer's own metadata. The Parquet library asks for its entries when it writes the footer,
   * which is when the checksums of all bytes before it are known.
   */
  private final class FooterMetadata extends AbstractMap<String, String> {
    @Override
    public Set<Entry<String, String>> entrySet() {
      Map<String, String> entries = new LinkedHashMap<>();
      entries.put(TABLE_KEY, tableId.toString());
      entries.put(SCHEMA_KEY, Json.write(SchemaJson.toJson(schema)));
      entries.put(BlockChecksums.KEY, output.startFooter().toText());
      return entries.entrySet();
    }
  }
}
