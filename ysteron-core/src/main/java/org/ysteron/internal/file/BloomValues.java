package org.ysteron.internal.file;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.HashMap;
import java.util.Map;
import org.apache.parquet.column.values.bloomfilter.BloomFilter;
import org.apache.parquet.hadoop.ParquetFileReader;
import org.apache.parquet.hadoop.metadata.ColumnChunkMetaData;
import org.apache.parquet.io.api.Binary;
import org.ysteron.data.Field;
import org.ysteron.internal.column.ParquetTypes;
import org.ysteron.internal.filter.HeldValues;

/** Asks the bloom filters of a row group whether it may hold a value. For one thread. */
final class BloomValues implements HeldValues {
  private final ParquetFileReader reader;
  private final Map<Integer, ColumnChunkMetaData> chunks;
  private final Map<Integer, BloomFilter> filters = new HashMap<>();

  BloomValues(ParquetFileReader reader, Map<Integer, ColumnChunkMetaData> chunks) {
    this.reader = reader;
    this.chunks = chunks;
  }

  private BloomFilter filter(Field field) {
    ColumnChunkMetaData chunk = chunks.get(field.id());
    if (chunk == null || chunk.getBloomFilterOffset() < 0) {
      return null;
    }
    if (!ParquetTypes.held(chunk.getPrimitiveType(), field.type()).equals(field.type())) {
      return null; // the filter knows the values in the narrower type's form
    }
    return filters.computeIfAbsent(
        field.id(),
        id -> {
          try {
            return reader.readBloomFilter(chunk);
          } catch (IOException e) {
            throw new UncheckedIOException(e);
          }
        });
  }

  @Override
  public boolean mayHold(Field field, long value) {
    BloomFilter filter = filter(field);
    if (filter == null) {
      return true;
    }
    return switch (chunks.get(field.id()).getPrimitiveType().getPrimitiveTypeName()) {
      case INT32 -> value == (int) value && filter.findHash(filter.hash((int) value));
      case INT64 -> filter.findHash(filter.hash(value));
      default -> true;
    };
  }

  @Override
  public boolean mayHold(Field field, byte[] value) {
    BloomFilter filter = filter(field);
    return filter == null || filter.findHash(filter.hash(Binary.fromConstantByteArray(value)));
  }
}
