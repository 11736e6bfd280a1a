package org.ysteron.internal.file;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.UUID;
import org.apache.parquet.ParquetReadOptions;
import org.apache.parquet.PlainReadOptions;
import org.apache.parquet.format.converter.ParquetMetadataConverter;
import org.apache.parquet.hadoop.metadata.BlockMetaData;
import org.apache.parquet.hadoop.metadata.ColumnChunkMetaData;
import org.apache.parquet.hadoop.metadata.ParquetMetadata;
import org.apache.parquet.internal.hadoop.metadata.IndexReference;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.column.Codecs;
import org.ysteron.internal.column.SpareBuffers;
import org.ysteron.internal.text.Reason;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/**
 * The checked footer of a data file. Immutable, thread-safe.
 *
 * @param metadata what Parquet says of the file
 * @param sums the checksums of all before the footer
 */
record Footer(ParquetMetadata metadata, BlockChecksums sums) {
  static final ParquetReadOptions OPTIONS = PlainReadOptions.of(Codecs.SHARED, SpareBuffers.SHARED);

  private static final int BEHIND = 8;

  /** Opens a data file, saying what is wrong when it is missing or has another size. */
  static ObjectInput open(ObjectStore store, DataFile file) {
    try {
      ObjectInput input = store.open(file.name());
      if (input.size() != file.size()) {
        input.close();
        throw DamagedException.of(
            file.name(),
            "Data file %s in %s has %d bytes where %d were expected. Restore it from a copy of the lake."
                .formatted(file.name(), store.location(), input.size(), file.size()),
            null);
      }
      return input;
    } catch (MissingObjectException e) {
      throw DamagedException.of(
          file.name(),
          "Data file %s is missing in %s. Restore it from a copy of the lake."
              .formatted(file.name(), store.location()),
          e);
    }
  }

  static Footer read(ObjectInput input, DataFile file, UUID tableId) {
    if (file.footerLength() < 0 || file.footerLength() > file.size() - BEHIND) {
      throw DamagedException.of(
          file.name(),
          "Data file %s of %d bytes cannot have a footer of %d."
              .formatted(file.name(), file.size(), file.footerLength()),
          null);
    }
    int length = Math.toIntExact(file.footerLength() + BEHIND);
    long start = file.size() - length;
    byte[] bytes = input.read(start, length);
    if (!Sha256.is(bytes, HexFormat.of().parseHex(file.footerHash()))) {
      throw DamagedException.of(
          file.name(),
          "The footer of data file %s is damaged: its SHA-256 is not %s as expected. Restore the file from a copy of the lake."
              .formatted(file.name(), file.footerHash()),
          null);
    }
    try {
      byte[] footer = Arrays.copyOf(bytes, length - BEHIND);
      ThriftLimits.check(footer);
      ParquetMetadata metadata =
          new ParquetMetadataConverter()
              .readParquetMetadata(
                  new ByteArrayInputStream(footer), ParquetMetadataConverter.NO_FILTER);
      var keys = metadata.getFileMetaData().getKeyValueMetaData();
      if (!tableId.toString().equals(keys.get(DataFileWriter.TABLE_KEY))) {
        throw DamagedException.of(
            file.name(),
            "Data file %s was written for table %s, not for %s, so its field IDs do not apply."
                .formatted(file.name(), keys.get(DataFileWriter.TABLE_KEY), tableId),
            null);
      }
      check(metadata, file, start);
      return new Footer(metadata, BlockChecksums.parse(keys.get(BlockChecksums.KEY), start));
    } catch (DamagedException e) {
      throw e;
    } catch (IOException | RuntimeException | LinkageError e) {
      throw DamagedException.of(
          file.name(),
          "The footer of data file %s cannot be read: %s. Restore the file from a copy of the lake."
              .formatted(file.name(), Reason.of(e)),
          e);
    }
  }

  /** What it points to must be in the file, and its rows those of the file. */
  private static void check(ParquetMetadata metadata, DataFile file, long end) {
    long rows = 0;
    for (BlockMetaData block : metadata.getBlocks()) {
      long left = file.rows() - rows;
      if (block.getRowCount() < 0 || block.getRowCount() > left) {
        throw wrong(
            file,
            "has a row group of %d rows where %d are left".formatted(block.getRowCount(), left));
      }
      rows += block.getRowCount();
      for (ColumnChunkMetaData chunk : block.getColumns()) {
        within(file, chunk.getStartingPos(), chunk.getTotalSize(), end);
        within(file, chunk.getColumnIndexReference(), end);
        within(file, chunk.getOffsetIndexReference(), end);
        if (chunk.getBloomFilterOffset() >= 0) {
          within(
              file, chunk.getBloomFilterOffset(), Math.max(0, chunk.getBloomFilterLength()), end);
        }
      }
    }
    if (rows != file.rows()) {
      throw wrong(file, "has %d rows where %d were expected".formatted(rows, file.rows()));
    }
  }

  private static void within(DataFile file, IndexReference index, long end) {
    if (index != null) {
      within(file, index.getOffset(), index.getLength(), end);
    }
  }

  private static void within(DataFile file, long offset, long length, long end) {
    if (offset < 0 || length < 0 || length > end || offset > end - length) {
      throw wrong(file, "points to %d bytes at %d, out of the file".formatted(length, offset));
    }
  }

  private static DamagedException wrong(DataFile file, String what) {
    return DamagedException.of(
        file.name(),
        "The footer of data file %s %s. Restore the file from a copy of the lake."
            .formatted(file.name(), what),
        null);
  }
}
