package org.ysteron.internal.file;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.apache.parquet.format.ColumnChunk;
import org.apache.parquet.format.FileMetaData;
import org.apache.parquet.format.RowGroup;
import org.apache.parquet.format.SortingColumn;
import org.apache.parquet.format.Statistics;
import org.apache.parquet.format.Util;

/**
 * What the Parquet library leaves to be said in a footer: by which columns the rows are sorted, and
 * that there are no bounds where there is a NaN. The library's bounds leave NaN out, which readers
 * that hold it for the greatest number would take for its absence.
 */
final class FooterFinish {
  private static final byte[] MAGIC = "PAR1".getBytes(StandardCharsets.US_ASCII);
  private static final int BEHIND = 8;

  private FooterFinish() {}

  /**
   * Finishes a footer.
   *
   * @param footer as the library has written it, with its length and the magic behind it
   * @param sorted the columns that the rows of each group are sorted by
   */
  static byte[] of(byte[] footer, List<SortingColumn> sorted) throws IOException {
    FileMetaData metadata =
        Util.readFileMetaData(new ByteArrayInputStream(footer, 0, footer.length - BEHIND));
    for (RowGroup group : metadata.getRow_groups()) {
      if (!sorted.isEmpty()) {
        group.setSorting_columns(sorted);
      }
      for (ColumnChunk chunk : group.getColumns()) {
        withoutFalseBounds(chunk);
      }
    }
    return written(metadata);
  }

  private static void withoutFalseBounds(ColumnChunk chunk) {
    Statistics statistics = chunk.getMeta_data().getStatistics();
    if (statistics == null || !statistics.isSetNan_count() || statistics.getNan_count() == 0) {
      return;
    }
    statistics.unsetMin();
    statistics.unsetMax();
    statistics.unsetMin_value();
    statistics.unsetMax_value();
    statistics.unsetIs_min_value_exact();
    statistics.unsetIs_max_value_exact();
    chunk.unsetColumn_index_offset();
    chunk.unsetColumn_index_length();
  }

  private static byte[] written(FileMetaData metadata) throws IOException {
    ByteArrayOutputStream out = new ByteArrayOutputStream();
    Util.writeFileMetaData(metadata, out);
    out.write(
        ByteBuffer.allocate(Integer.BYTES)
            .order(ByteOrder.LITTLE_ENDIAN)
            .putInt(out.size())
            .array());
    out.write(MAGIC);
    return out.toByteArray();
  }
}
