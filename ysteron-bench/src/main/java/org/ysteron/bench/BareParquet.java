package org.ysteron.bench;

import com.github.luben.zstd.ZstdCompressCtx;
import com.github.luben.zstd.ZstdDecompressCtx;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.apache.parquet.PlainReadOptions;
import org.apache.parquet.bytes.ByteBufferInputStream;
import org.apache.parquet.bytes.BytesInput;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnWriteStore;
import org.apache.parquet.column.ColumnWriter;
import org.apache.parquet.column.Dictionary;
import org.apache.parquet.column.ParquetProperties;
import org.apache.parquet.column.ValuesType;
import org.apache.parquet.column.page.DataPageV1;
import org.apache.parquet.column.page.DictionaryPage;
import org.apache.parquet.column.page.PageReadStore;
import org.apache.parquet.column.page.PageReader;
import org.apache.parquet.column.values.ValuesReader;
import org.apache.parquet.column.values.dictionary.DictionaryValuesReader;
import org.apache.parquet.compression.CompressionCodecFactory;
import org.apache.parquet.format.converter.ParquetMetadataConverter;
import org.apache.parquet.hadoop.ColumnChunkPageWriteStore;
import org.apache.parquet.hadoop.ParquetFileReader;
import org.apache.parquet.hadoop.ParquetFileWriter;
import org.apache.parquet.hadoop.metadata.CompressionCodecName;
import org.apache.parquet.hadoop.metadata.ParquetMetadata;
import org.apache.parquet.io.InputFile;
import org.apache.parquet.io.LocalOutputFile;
import org.apache.parquet.io.SeekableInputStream;
import org.apache.parquet.io.api.Binary;
import org.apache.parquet.schema.MessageType;
import org.apache.parquet.schema.PrimitiveType.PrimitiveTypeName;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;

/**
 * The Parquet library by itself, used in the fastest way known to us: written a column at a time,
 * read a page at a time with loops over its value readers. No checks beyond the library's own.
 */
final class BareParquet {
  private BareParquet() {}

  /** Writes batches of required flat columns to one file, with fsync. */
  static void write(Path path, MessageType schema, List<Batch> batches, long groupBytes)
      throws IOException {
    ParquetProperties properties =
        ParquetProperties.builder()
            .withWriterVersion(ParquetProperties.WriterVersion.PARQUET_1_0)
            .withAllocator(HeapByteBufferAllocator.getInstance())
            .withSizeStatisticsEnabled(false)
            .build();
    ParquetFileWriter file =
        new ParquetFileWriter(
            new LocalOutputFile(path),
            schema,
            ParquetFileWriter.Mode.CREATE,
            groupBytes,
            0,
            64,
            64,
            true);
    file.start();
    int next = 0;
    while (next < batches.size()) {
      ColumnChunkPageWriteStore pages =
          new ColumnChunkPageWriteStore(
              new Zstd(), schema, HeapByteBufferAllocator.getInstance(), 64, true);
      List<ColumnWriteStore> stores = new ArrayList<>();
      List<ColumnWriter> writers = new ArrayList<>();
      for (ColumnDescriptor column : schema.getColumns()) {
        ColumnWriteStore store =
            properties.newColumnWriteStore(
                new MessageType("row", schema.getType(column.getPath()[0])), pages, pages);
        stores.add(store);
        writers.add(store.getColumnWriter(column));
      }
      long rows = 0;
      long buffered = 0;
      while (next < batches.size() && buffered < groupBytes) {
        Batch batch = batches.get(next++);
        buffered = 0;
        for (int c = 0; c < stores.size(); c++) {
          write(batch.vectors().get(c), stores.get(c), writers.get(c));
          buffered += stores.get(c).getBufferedSize();
        }
        rows += batch.size();
      }
      stores.forEach(ColumnWriteStore::flush);
      file.startBlock(rows);
      pages.flushToFileWriter(file);
      file.endBlock();
    }
    file.end(Map.of());
    try (FileChannel channel = FileChannel.open(path, StandardOpenOption.WRITE)) {
      channel.force(true);
    }
  }

  private static void write(Vector vector, ColumnWriteStore store, ColumnWriter writer) {
    if (vector instanceof Vector.OfLong longs) {
      for (int i = 0; i < vector.size(); i++) {
        writer.write(longs.values()[i], 0, 0);
        store.endRecord();
      }
    } else if (vector instanceof Vector.OfInt ints) {
      for (int i = 0; i < vector.size(); i++) {
        writer.write(ints.values()[i], 0, 0);
        store.endRecord();
      }
    } else {
      Vector.OfBytes bytes = (Vector.OfBytes) vector;
      for (int i = 0; i < vector.size(); i++) {
        Binary value =
            Binary.fromReusedByteArray(bytes.data(), bytes.starts()[i], bytes.lengths()[i]);
        writer.write(value, 0, 0);
        store.endRecord();
      }
    }
  }

  /** Reads columns of required flat values into arrays, page by page; returns a sum of all. */
  static long read(Path path, MessageType wanted) throws IOException {
    long sum = 0;
    LocalInput input = new LocalInput(path);
    try (ParquetFileReader reader =
        ParquetFileReader.open(
            input, footer(input), PlainReadOptions.of(new ZstdCodecs()), input)) {
      reader.setRequestedSchema(wanted);
      PageReadStore group = reader.readNextRowGroup();
      while (group != null) {
        for (ColumnDescriptor column : wanted.getColumns()) {
          sum += column(group.getPageReader(column), column);
        }
        group = reader.readNextRowGroup();
      }
    }
    return sum;
  }

  private static ParquetMetadata footer(LocalInput input) throws IOException {
    ByteBuffer end = ByteBuffer.allocate(8).order(ByteOrder.LITTLE_ENDIAN);
    input.seek(input.getLength() - 8);
    input.readFully(end);
    byte[] footer = new byte[end.getInt(0)];
    input.seek(input.getLength() - 8 - footer.length);
    input.readFully(footer);
    return new ParquetMetadataConverter()
        .readParquetMetadata(new ByteArrayInputStream(footer), ParquetMetadataConverter.NO_FILTER);
  }

  private static long column(PageReader pages, ColumnDescriptor column) throws IOException {
    DictionaryPage dictionaryPage = pages.readDictionaryPage();
    Dictionary dictionary =
        dictionaryPage == null
            ? null
            : dictionaryPage.getEncoding().initDictionary(column, dictionaryPage);
    PrimitiveTypeName type = column.getPrimitiveType().getPrimitiveTypeName();
    long sum = 0;
    DataPageV1 page = (DataPageV1) pages.readPage();
    long[] longs = new long[0];
    int[] ints = new int[0];
    int[] starts = new int[0];
    int[] words = null;
    while (page != null) {
      int count = page.getValueCount();
      if (longs.length < count) {
        longs = new long[count];
        ints = new int[count];
        starts = new int[count];
      }
      ByteBuffer bytes = page.getBytes().toByteBuffer(HeapReleaser.INSTANCE);
      if (page.getValueEncoding().usesDictionary()) {
        ValuesReader values =
            page.getValueEncoding()
                .getDictionaryBasedValuesReader(column, ValuesType.VALUES, dictionary);
        values.initFromPage(count, ByteBufferInputStream.wrap(bytes));
        DictionaryValuesReader codes = (DictionaryValuesReader) values;
        if (type == PrimitiveTypeName.INT64) {
          long[] decoded = new long[dictionary.getMaxId() + 1];
          for (int i = 0; i < decoded.length; i++) {
            decoded[i] = dictionary.decodeToLong(i);
          }
          for (int i = 0; i < count; i++) {
            longs[i] = decoded[codes.readValueDictionaryId()];
          }
        } else if (type == PrimitiveTypeName.INT32) {
          int[] decoded = new int[dictionary.getMaxId() + 1];
          for (int i = 0; i < decoded.length; i++) {
            decoded[i] = dictionary.decodeToInt(i);
          }
          for (int i = 0; i < count; i++) {
            ints[i] = decoded[codes.readValueDictionaryId()];
          }
        } else {
          if (words == null) {
            words = new int[dictionary.getMaxId() + 1];
            for (int i = 0; i < words.length; i++) {
              words[i] = dictionary.decodeToBinary(i).length();
            }
          }
          for (int i = 0; i < count; i++) {
            int code = codes.readValueDictionaryId();
            starts[i] = code;
            ints[i] = words[code];
          }
        }
      } else if (type == PrimitiveTypeName.INT64) {
        bytes.order(ByteOrder.LITTLE_ENDIAN).asLongBuffer().get(longs, 0, count);
      } else if (type == PrimitiveTypeName.INT32) {
        bytes.order(ByteOrder.LITTLE_ENDIAN).asIntBuffer().get(ints, 0, count);
      } else {
        ByteBuffer little = bytes.order(ByteOrder.LITTLE_ENDIAN);
        int at = little.position();
        for (int i = 0; i < count; i++) {
          int length = little.getInt(at);
          starts[i] = at + 4;
          ints[i] = length;
          at += 4 + length;
        }
      }
      sum += type == PrimitiveTypeName.INT64 ? Sums.of(longs, count) : Sums.of(ints, count);
      page = (DataPageV1) pages.readPage();
    }
    return sum;
  }

  /** A file as the library reads it, without checks. */
  private static final class LocalInput extends SeekableInputStream implements InputFile {
    private final FileChannel channel;
    private long position;

    LocalInput(Path path) throws IOException {
      channel = FileChannel.open(path, StandardOpenOption.READ);
    }

    @Override
    public long getLength() throws IOException {
      return channel.size();
    }

    @Override
    public SeekableInputStream newStream() {
      return this;
    }

    @Override
    public long getPos() {
      return position;
    }

    @Override
    public void seek(long newPosition) {
      position = newPosition;
    }

    @Override
    public int read() throws IOException {
      ByteBuffer one = ByteBuffer.allocate(1);
      return read(one) < 0 ? -1 : one.get(0) & 0xff;
    }

    @Override
    public int read(ByteBuffer target) throws IOException {
      int count = channel.read(target, position);
      position += Math.max(0, count);
      return count;
    }

    @Override
    public int read(byte[] target, int start, int length) throws IOException {
      return read(ByteBuffer.wrap(target, start, length));
    }

    @Override
    public void readFully(byte[] target) throws IOException {
      readFully(ByteBuffer.wrap(target));
    }

    @Override
    public void readFully(byte[] target, int start, int length) throws IOException {
      readFully(ByteBuffer.wrap(target, start, length));
    }

    @Override
    public void readFully(ByteBuffer target) throws IOException {
      while (target.hasRemaining()) {
        if (read(target) < 0) {
          throw new java.io.EOFException();
        }
      }
    }

    @Override
    public void close() throws IOException {
      channel.close();
    }
  }

  /** Heap buffers need no release. */
  private static final class HeapReleaser extends org.apache.parquet.bytes.ByteBufferReleaser {
    static final HeapReleaser INSTANCE = new HeapReleaser();

    private HeapReleaser() {
      super(HeapByteBufferAllocator.getInstance());
    }

    @Override
    public void releaseLater(ByteBuffer buffer) {}
  }

  private static final class Zstd implements CompressionCodecFactory.BytesInputCompressor {
    private final ZstdCompressCtx context = new ZstdCompressCtx().setLevel(3);

    @Override
    public BytesInput compress(BytesInput bytes) throws IOException {
      ByteBuffer source = bytes.toByteBuffer(HeapReleaser.INSTANCE);
      byte[] target = new byte[(int) com.github.luben.zstd.Zstd.compressBound(source.remaining())];
      int made =
          context.compressByteArray(
              target,
              0,
              target.length,
              source.array(),
              source.arrayOffset() + source.position(),
              source.remaining());
      return BytesInput.from(target, 0, made);
    }

    @Override
    public CompressionCodecName getCodecName() {
      return CompressionCodecName.ZSTD;
    }

    @Override
    public void release() {}
  }

  private static final class ZstdCodecs
      implements CompressionCodecFactory, CompressionCodecFactory.BytesInputDecompressor {
    private final ZstdDecompressCtx context = new ZstdDecompressCtx();

    @Override
    public BytesInputCompressor getCompressor(CompressionCodecName name) {
      return new Zstd();
    }

    @Override
    public BytesInputDecompressor getDecompressor(CompressionCodecName name) {
      return this;
    }

    @Override
    public BytesInput decompress(BytesInput bytes, int size) throws IOException {
      ByteBuffer source = bytes.toByteBuffer(HeapReleaser.INSTANCE);
      byte[] target = new byte[size];
      context.decompressByteArray(
          target,
          0,
          size,
          source.array(),
          source.arrayOffset() + source.position(),
          source.remaining());
      return BytesInput.from(target);
    }

    @Override
    public void decompress(ByteBuffer input, int inputSize, ByteBuffer output, int outputSize)
        throws IOException {
      output.put(
          decompress(BytesInput.from(input), outputSize).toByteBuffer(HeapReleaser.INSTANCE));
    }

    @Override
    public void release() {}
  }
}
