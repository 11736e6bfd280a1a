package org.ysteron.internal.file;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.apache.parquet.hadoop.ParquetFileReader;
import org.apache.parquet.hadoop.metadata.BlockMetaData;
import org.apache.parquet.hadoop.metadata.ColumnChunkMetaData;
import org.apache.parquet.internal.column.columnindex.ColumnIndex;
import org.apache.parquet.internal.column.columnindex.OffsetIndex;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.internal.column.ParquetTypes;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;

/**
 * Finds the rows of a row group that can pass a filter, by the ranges of pages. Columns have pages
 * of different lengths, so the row group is cut at every page boundary of every tested column, and
 * each piece is tested with the pages that it lies in.
 */
final class PagePruner {
  private static final int LONGEST_GAP = 2000;
  private static final int LEAST_MASKED = 8192;

  private final long rows;
  private final Map<Integer, Pages> columns = new HashMap<>();
  private final TreeSet<Long> cuts = new TreeSet<>();
  private long pagesKept;
  private long pagesSkipped;

  @SuppressWarnings("ArrayRecordComponent") // private, never compared
  private record Pages(List<ColumnRange> ranges, long[] firstRows) {
    ColumnRange at(long row) {
      int at = java.util.Arrays.binarySearch(firstRows, row);
      return ranges.get(at >= 0 ? at : -at - 2);
    }
  }

  PagePruner(
      ParquetFileReader reader,
      VerifiedInput input,
      BlockMetaData block,
      Map<Integer, ColumnChunkMetaData> chunks,
      Filter filter)
      throws java.io.IOException {
    this.rows = block.getRowCount();
    cuts.add(0L);
    for (Field field : filter.columns().values()) {
      ColumnChunkMetaData chunk = chunks.get(field.id());
      if (chunk == null || field.type().isNested()) {
        continue;
      }
      input.check(chunk.getColumnIndexReference());
      input.check(chunk.getOffsetIndexReference());
      ColumnIndex index = reader.readColumnIndex(chunk);
      OffsetIndex offsets = reader.readOffsetIndex(chunk);
      if (index != null && offsets != null) {
        Type type = ParquetTypes.held(chunk.getPrimitiveType(), field.type());
        add(field, type, index, offsets);
      }
    }
  }

  /**
   * The rows of a row group around some positions of the file, close ones joined: pages hold some
   * thousand rows, so that a short gap costs less than another run.
   */
  static List<RowSpan> around(RoaringBitmap positions, long groupStart, long groupRows) {
    List<RowSpan> runs = new ArrayList<>();
    PeekableIntIterator next = positions.getIntIterator();
    next.advanceIfNeeded((int) groupStart);
    long from = -1;
    long to = -1;
    while (next.hasNext()) {
      long row = next.next() - groupStart;
      if (row >= groupRows) {
        break;
      }
      if (from >= 0 && row - to > LONGEST_GAP) {
        runs.add(new RowSpan(from, to));
        from = -1;
      }
      from = from < 0 ? row : from;
      to = row + 1;
    }
    if (from >= 0) {
      runs.add(new RowSpan(from, to));
    }
    return runs;
  }

  /** Rows without long runs of others, of which pages could be passed over. */
  static List<RowSpan> without(RoaringBitmap masked, long groupStart, List<RowSpan> rows) {
    List<RowSpan> left = new ArrayList<>();
    for (RowSpan span : rows) {
      long from = groupStart + span.from();
      long end = groupStart + span.to();
      long at = from;
      while (at < end) {
        long first = next(masked.nextValue((int) at), end);
        long behind = first == end ? end : next(masked.nextAbsentValue((int) first), end);
        if (behind - first >= LEAST_MASKED || (first == from && behind == end)) {
          if (first > from) {
            left.add(new RowSpan(from - groupStart, first - groupStart));
          }
          from = behind;
        }
        at = behind;
      }
      if (from < end) {
        left.add(new RowSpan(from - groupStart, end - groupStart));
      }
    }
    return left;
  }

  private static long next(long found, long end) {
    return found < 0 ? end : Math.min(found, end);
  }

  private void add(Field field, Type type, ColumnIndex index, OffsetIndex offsets) {
    int count = offsets.getPageCount();
    long[] firstRows = new long[count];
    List<ColumnRange> ranges = new ArrayList<>();
    Index values = new Index(index);
    for (int page = 0; page < count; page++) {
      firstRows[page] = offsets.getFirstRowIndex(page);
      cuts.add(firstRows[page]);
      ranges.add(range(type, values, page));
    }
    columns.put(field.id(), new Pages(ranges, firstRows));
  }

  /** What a column index says, each list of which the library makes anew when it is asked. */
  private record Index(
      List<Boolean> allNull,
      List<Long> nulls,
      List<ByteBuffer> mins,
      List<ByteBuffer> maxes,
      List<Long> nans) {
    Index(ColumnIndex index) {
      this(
          index.getNullPages(),
          index.getNullCounts(),
          index.getMinValues(),
          index.getMaxValues(),
          index.getNanCounts());
    }
  }

  private static ColumnRange range(Type type, Index index, int page) {
    long nulls = index.nulls == null ? -1 : index.nulls.get(page);
    if (index.allNull.get(page)) {
      return ColumnRange.allNull(type, nulls);
    }
    ByteBuffer min = index.mins.get(page);
    ByteBuffer max = index.maxes.get(page);
    boolean nan = index.nans == null || page >= index.nans.size() || index.nans.get(page) > 0;
    if (min.remaining() == 0 && !org.ysteron.internal.filter.Ordered.isBytes(type)) {
      return ColumnRange.UNKNOWN;
    }
    return StatisticRanges.of(type, nulls, min, max, nan);
  }

  /** The rows to read, in order, neighbours joined. */
  List<RowSpan> prune(Filter filter, java.util.function.IntFunction<ColumnRange> chunkRange) {
    List<RowSpan> kept = new ArrayList<>();
    for (long from : cuts) {
      Long next = cuts.higher(from);
      long to = next == null ? rows : next;
      Verdict verdict =
          filter.test(
              id -> {
                Pages pages = columns.get(id);
                return pages == null ? chunkRange.apply(id) : pages.at(from);
              });
      if (verdict == Verdict.NONE) {
        pagesSkipped++;
        continue;
      }
      pagesKept++;
      int last = kept.size() - 1;
      if (last >= 0 && kept.get(last).to() == from) {
        kept.set(last, new RowSpan(kept.get(last).from(), to));
      } else {
        kept.add(new RowSpan(from, to));
      }
    }
    return kept;
  }

  long pagesKept() {
    return pagesKept;
  }

  long pagesSkipped() {
    return pagesSkipped;
  }
}
