package org.ysteron.internal.column;

import com.github.luben.zstd.ZstdException;
import java.io.IOException;
import java.nio.ByteBuffer;
import org.apache.parquet.bytes.ByteBufferReleaser;
import org.apache.parquet.bytes.BytesInput;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.compression.CompressionCodecFactory;
import org.apache.parquet.hadoop.metadata.CompressionCodecName;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.Compression;
import org.ysteron.internal.bytes.SpareBytes;

/**
 * zstd for Parquet pages, with contexts that are used again; the library's own factory needs
 * Hadoop. Thread-safe.
 */
public final class Codecs implements CompressionCodecFactory {
  public static final Codecs SHARED = new Codecs();

  /** Heap buffers need no release; this one is only asked for them. */
  private static final ByteBufferReleaser RELEASER = new HeapReleaser();

  private Codecs() {}

  @Override
  public BytesInputCompressor getCompressor(CompressionCodecName name) {
    if (name != CompressionCodecName.ZSTD) {
      throw new IllegalArgumentException("data files are written with zstd, not " + name);
    }
    return new Compressor();
  }

  @Override
  public BytesInputDecompressor getDecompressor(CompressionCodecName name) {
    return switch (name) {
      case ZSTD -> new Decompressor();
      case UNCOMPRESSED -> new Plain();
      default ->
          throw new InvalidInputException(
              "A data file is compressed with " + name + ", which cannot be read here.");
    };
  }

  @Override
  public void release() {}

  /** The bytes as one buffer on the heap. */
  static ByteBuffer heap(BytesInput bytes) throws IOException {
    ByteBuffer buffer = bytes.toByteBuffer(RELEASER);
    if (buffer.hasArray()) {
      return buffer;
    }
    ByteBuffer copy = ByteBuffer.allocate(buffer.remaining());
    copy.put(buffer.duplicate()).flip();
    return copy;
  }

  /** The array that a buffer starts with; null when the buffer is a part of a larger one. */
  static byte[] own(ByteBuffer buffer) {
    return buffer.arrayOffset() + buffer.position() == 0 ? buffer.array() : null;
  }

  private static final class Compressor implements BytesInputCompressor {
    @Override
    public BytesInput compress(BytesInput bytes) throws IOException {
      ByteBuffer source = heap(bytes);
      return BytesInput.from(
          Compression.compress(
              source.array(), source.arrayOffset() + source.position(), source.remaining()));
    }

    @Override
    public CompressionCodecName getCodecName() {
      return CompressionCodecName.ZSTD;
    }

    @Override
    public void release() {}
  }

  private static final class Decompressor implements BytesInputDecompressor {
    @Override
    public BytesInput decompress(BytesInput bytes, int size) throws IOException {
      ByteBuffer source = heap(bytes);
      byte[] made;
      try {
        made =
            Compression.decompress(
                source.array(),
                source.arrayOffset() + source.position(),
                source.remaining(),
                size,
                SpareBytes::take);
      } catch (ZstdException e) {
        throw new DamagedException("A page of a data file cannot be decompressed.", e);
      }
      if (made == null) {
        throw new DamagedException("A page of a data file has another size than it says.");
      }
      return BytesInput.from(made, 0, size);
    }

    @Override
    public void decompress(ByteBuffer input, int inputSize, ByteBuffer output, int outputSize)
        throws IOException {
      output.put(heap(decompress(BytesInput.from(input.slice(0, inputSize)), outputSize)));
    }

    @Override
    public void release() {}
  }

  /** Remembers nothing, as buffers on the heap are left to the garbage collector. */
  private static final class HeapReleaser extends ByteBufferReleaser {
    HeapReleaser() {
      super(HeapByteBufferAllocator.getInstance());
    }

    @Override
    public void releaseLater(ByteBuffer buffer) {}
  }

  private static final class Plain implements BytesInputDecompressor {
    @Override
    public BytesInput decompress(BytesInput bytes, int size) {
      return bytes;
    }

    @Override
    public void decompress(ByteBuffer input, int inputSize, ByteBuffer output, int outputSize) {
      output.put(input);
    }

    @Override
    public void release() {}
  }
}
