package org.ysteron.internal.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.UUID;
import org.apache.parquet.bytes.BytesInput;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.column.ColumnWriteStore;
import org.apache.parquet.column.ColumnWriter;
import org.apache.parquet.column.ParquetProperties;
import org.apache.parquet.compression.CompressionCodecFactory;
import org.apache.parquet.hadoop.ColumnChunkPageWriteStore;
import org.apache.parquet.hadoop.ParquetFileWriter;
import org.apache.parquet.hadoop.metadata.CompressionCodecName;
import org.apache.parquet.io.api.Binary;
import org.apache.parquet.schema.MessageType;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.internal.column.Codecs;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.column.ParquetTypes;
import org.ysteron.internal.filter.Filter;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectOutput;

/** Pages in forms that this library does not write are read all the same. */
class ForeignEncodingsTest {
  private static final UUID TABLE = new UUID(1, 2);
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("i", Types.INTEGER),
          Field.of("l", Types.BIGINT).notNull(),
          Field.of("d", Types.DOUBLE),
          Field.of("r", Types.REAL),
          Field.of("b", Types.BOOLEAN),
          Field.of("t", Types.text()));

  @ParameterizedTest
  @CsvSource({
    "PARQUET_2_0, true, false, ZSTD",
    "PARQUET_2_0, false, false, ZSTD",
    "PARQUET_2_0, false, true, ZSTD",
    "PARQUET_1_0, false, false, ZSTD",
    "PARQUET_1_0, true, false, UNCOMPRESSED",
    "PARQUET_1_0, false, false, UNCOMPRESSED",
    "PARQUET_2_0, false, false, UNCOMPRESSED",
    "PARQUET_1_0, false, true, ZSTD"
  })
  void itIsReadWhateverWroteIt(
      ParquetProperties.WriterVersion version,
      boolean dictionary,
      boolean split,
      CompressionCodecName codec)
      throws IOException {
    int rows = 7000;
    Random random = new Random(3);
    Object[][] expected = new Object[rows][];
    for (int i = 0; i < rows; i++) {
      expected[i] =
          new Object[] {
            random.nextInt(5) == 0 ? null : random.nextInt(300),
            random.nextLong(),
            random.nextInt(3) == 0 ? null : random.nextGaussian(),
            random.nextFloat(),
            random.nextInt(4) == 0 ? null : random.nextBoolean(),
            i % 1000 < 400 ? null : "text " + random.nextInt(50)
          };
    }
    MemoryStore store = new MemoryStore();
    DataFile file = write(store, version, dictionary, split, codec, expected);
    List<Batch> held = read(store, file);
    Collections.reverse(Arrays.asList(expected)); // in arrays that serve again
    DataFile other = write(store, version, dictionary, split, codec, expected);
    assertRows(read(store, other), expected);
    Collections.reverse(Arrays.asList(expected));
    assertRows(held, expected);
  }

  private static void assertRows(List<Batch> batches, Object[][] expected) {
    int at = 0;
    for (Batch batch : batches) {
      for (Row row : batch.rows()) {
        assertThat(row.values()).containsExactly(expected[at++]);
      }
    }
    assertThat(at).isEqualTo(expected.length);
  }

  private static List<Batch> read(MemoryStore store, DataFile file) {
    List<Batch> batches = new ArrayList<>();
    try (DataFileReader reader =
        new DataFileReader(
            store,
            file,
            TABLE,
            SCHEMA.struct(),
            Filter.bind(Condition.all(), SCHEMA),
            new FooterCache())) {
      Optional<Batch> batch = reader.next();
      while (batch.isPresent()) {
        batches.add(batch.get());
        batch = reader.next();
      }
    }
    return batches;
  }

  /** Leaves bytes as they are. */
  private static final class Plain implements CompressionCodecFactory.BytesInputCompressor {
    @Override
    public BytesInput compress(BytesInput bytes) {
      return bytes;
    }

    @Override
    public CompressionCodecName getCodecName() {
      return CompressionCodecName.UNCOMPRESSED;
    }

    @Override
    public void release() {}
  }

  private static DataFile write(
      MemoryStore store,
      ParquetProperties.WriterVersion version,
      boolean dictionary,
      boolean split,
      CompressionCodecName codec,
      Object[][] rows)
      throws IOException {
    String name = "data/x/" + UUID.randomUUID();
    ParquetProperties properties =
        ParquetProperties.builder()
            .withWriterVersion(version)
            .withDictionaryEncoding(dictionary)
            .withByteStreamSplitEncoding(split)
            .withPageRowCountLimit(900)
            .build();
    MessageType message = ParquetTypes.message(SCHEMA);
    try (ObjectOutput target = store.put(name)) {
      HashingOutput output = new HashingOutput(target);
      ParquetFileWriter writer =
          new ParquetFileWriter(
              output.asFile(), message, ParquetFileWriter.Mode.CREATE, 1 << 20, 0, 64, 64, true);
      writer.start();
      ColumnChunkPageWriteStore pages =
          new ColumnChunkPageWriteStore(
              codec == CompressionCodecName.ZSTD ? Codecs.SHARED.getCompressor(codec) : new Plain(),
              message,
              HeapByteBufferAllocator.getInstance(),
              64,
              true);
      ColumnWriteStore columns = properties.newColumnWriteStore(message, pages, pages);
      for (Object[] row : rows) {
        for (int c = 0; c < row.length; c++) {
          boolean required = SCHEMA.columns().get(c).required();
          put(columns.getColumnWriter(message.getColumns().get(c)), row[c], required ? 0 : 1);
        }
        columns.endRecord();
      }
      columns.flush();
      writer.startBlock(rows.length);
      pages.flushToFileWriter(writer);
      writer.endBlock();
      writer.end(
          new java.util.AbstractMap<String, String>() {
            @Override
            public java.util.Set<Entry<String, String>> entrySet() {
              return Map.of(
                      DataFileWriter.TABLE_KEY,
                      TABLE.toString(),
                      BlockChecksums.KEY,
                      output.startFooter().toText())
                  .entrySet();
            }
          });
      output.endFooter(output.heldFooter());
      DataFile file =
          new DataFile(
              name,
              target.position(),
              rows.length,
              output.footerLength(),
              java.util.HexFormat.of().formatHex(output.footerHash()),
              new FieldIds(Integer.MAX_VALUE, java.util.Map.of()));
      target.commit();
      return file;
    }
  }

  private static void put(ColumnWriter writer, Object value, int present) {
    if (value == null) {
      writer.writeNull(0, 0);
    } else if (value instanceof Integer number) {
      writer.write(number, 0, present);
    } else if (value instanceof Long number) {
      writer.write(number, 0, present);
    } else if (value instanceof Double number) {
      writer.write(number, 0, present);
    } else if (value instanceof Float number) {
      writer.write(number, 0, present);
    } else if (value instanceof Boolean flag) {
      writer.write(flag, 0, present);
    } else {
      writer.write(Binary.fromString((String) value), 0, present);
    }
  }

  @ParameterizedTest
  @CsvSource({"1, 2", "3, 1"})
  void aFileOfAnotherTableIsRefused(long most, long least) throws IOException {
    MemoryStore store = new MemoryStore();
    Object[][] one = {{1, 2L, 3.0, 4f, true, "x"}};
    DataFile file =
        write(
            store,
            ParquetProperties.WriterVersion.PARQUET_1_0,
            true,
            false,
            CompressionCodecName.ZSTD,
            one);
    UUID other = new UUID(most, least);
    org.assertj.core.api.AbstractThrowableAssert<?, ?> thrown =
        org.assertj.core.api.Assertions.assertThatCode(
            () ->
                new DataFileReader(
                        store,
                        file,
                        other,
                        SCHEMA.struct(),
                        Filter.bind(Condition.all(), SCHEMA),
                        new FooterCache())
                    .close());
    if (other.equals(TABLE)) {
      thrown.doesNotThrowAnyException();
    } else {
      thrown.hasMessageContaining("was written for table").hasMessageContaining("not for");
    }
    assertThat(List.of(one)).hasSize(1);
  }
}
