package org.apache.parquet;

import java.util.Map;
import org.apache.parquet.bytes.ByteBufferAllocator;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.compression.CompressionCodecFactory;
import org.apache.parquet.conf.PlainParquetConfiguration;
import org.apache.parquet.filter2.compat.FilterCompat;
import org.apache.parquet.format.converter.ParquetMetadataConverter;

/**
 * Makes read options without Hadoop on the class path: every public way of making them needs it,
 * the package-private constructor does not, so this one class stands in the library's package. A
 * test pins the order of the flags.
 */
public final class PlainReadOptions {
  private static final int MOST_BYTES_AT_ONCE = 8 << 20;

  private PlainReadOptions() {}

  /** Options that read with the column index and leave checking to the input stream. */
  public static ParquetReadOptions of(CompressionCodecFactory codecs) {
    return of(codecs, HeapByteBufferAllocator.getInstance());
  }

  /** The same with buffers of one's own. */
  public static ParquetReadOptions of(
      CompressionCodecFactory codecs, ByteBufferAllocator allocator) {
    return new ParquetReadOptions(
        /* useSignedStringMinMax= */ false,
        /* useStatsFilter= */ false,
        /* useDictionaryFilter= */ false,
        /* useRecordFilter= */ false,
        /* useColumnIndexFilter= */ true,
        /* usePageChecksumVerification= */ false,
        /* useBloomFilter= */ false,
        /* useOffHeapDecryptBuffer= */ false,
        /* useHadoopVectoredIo= */ false,
        FilterCompat.NOOP,
        ParquetMetadataConverter.NO_FILTER,
        codecs,
        allocator,
        MOST_BYTES_AT_ONCE,
        Map.of(),
        null,
        null,
        new PlainParquetConfiguration());
  }
}
