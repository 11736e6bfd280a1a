package org.ysteron.file;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.UUID;
import org.apache.parquet.ParquetReadOptions;
import org.apache.parquet.PlainReadOptions;
import org.apache.parquet.format.converter.ParquetMetadataConverter;
import org.apache.parquet.hadoop.metadata.ParquetMetadata;
import org.ysteron.data.Sha256;
import org.ysteron.error.DamagedException;
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
  static final ParquetReadOptions OPTIONS = PlainReadOptions.of(Codecs.SHARED);

  private static final int BEHIND = 8;

  /** Opens a data file, saying what is wrong when it is missing or has another size. */
  static ObjectInput open(ObjectStore store, DataFile file) {
    try {
      ObjectInput input = store.open(file.name());
      if (input.size() != file.size()) {
        input.close();
        throw new DamagedException(
            "Data file %s in %s has %d bytes where %d were expected. Restore it from a copy of the lake."
                .formatted(file.name(), store.location(), input.size(), file.size()));
      }
      return input;
    } catch (MissingObjectException e) {
      throw new DamagedException(
          "Data file %s is missing in %s. Restore it from a copy of the lake."
              .formatted(file.name(), store.location()),
          e);
    }
  }

  static Footer read(ObjectInput input, DataFile file, UUID tableId) {
    int length = (int) file.footerLength() + BEHIND;
    long start = file.size() - length;
    byte[] bytes = input.read(start, length);
    String hash = HexFormat.of().formatHex(Sha256.of(bytes));
    if (!hash.equals(file.footerHash())) {
      throw new DamagedException(
          "The footer of data file %s is damaged: its SHA-256 is %s where %s was expected. Restore the file from a copy of the lake."
              .formatted(file.name(), hash, file.footerHash()));
    }
    try {
      ParquetMetadata metadata =
          new ParquetMetadataConverter()
              .readParquetMetadata(
                  new ByteArrayInputStream(Arrays.copyOf(bytes, length - BEHIND)),
                  ParquetMetadataConverter.NO_FILTER);
      var keys = metadata.getFileMetaData().getKeyValueMetaData();
      if (!tableId.toString().equals(keys.get(DataFileWriter.TABLE_KEY))) {
        throw new DamagedException(
            "Data file %s was written for table %s, not for %s; its field ids mean something else."
                .formatted(file.name(), keys.get(DataFileWriter.TABLE_KEY), tableId));
      }
      return new Footer(metadata, BlockChecksums.parse(keys.get(BlockChecksums.KEY), start));
    } catch (IOException e) {
      throw new DamagedException(
          "The footer of data file %s cannot be read: %s".formatted(file.name(), e.getMessage()),
          e);
    }
  }
}
