package org.ysteron.internal.bytes;

import com.github.luben.zstd.Zstd;
import com.github.luben.zstd.ZstdCompressCtx;
import com.github.luben.zstd.ZstdDecompressCtx;
import java.util.Arrays;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.IntFunction;

/**
 * zstd (RFC 8878) with contexts that are used again: they are few, dear to make, and live as long
 * as the process. Thread-safe.
 */
public final class Compression {
  private static final int LEVEL = 3;

  /** What compressed bytes may become; more is believed of nothing. */
  private static final int MOST_RATIO = 4096;

  private static final int PLAIN = 4 << 20;
  private static final Queue<ZstdCompressCtx> COMPRESSORS = new ConcurrentLinkedQueue<>();
  private static final Queue<ZstdDecompressCtx> DECOMPRESSORS = new ConcurrentLinkedQueue<>();

  private Compression() {}

  /** One frame of some bytes. */
  public static byte[] compress(byte[] source, int start, int length) {
    ZstdCompressCtx context = COMPRESSORS.poll();
    if (context == null) {
      context = new ZstdCompressCtx();
      context.setLevel(LEVEL);
    }
    try {
      byte[] target = new byte[(int) Zstd.compressBound(length)];
      int made = context.compressByteArray(target, 0, target.length, source, start, length);
      return Arrays.copyOf(target, made);
    } finally {
      COMPRESSORS.add(context);
    }
  }

  /** The bytes of one frame in an array that has no others; else as the one below. */
  public static byte[] decompress(byte[] source, int start, int length, int size) {
    return decompress(source, start, length, size, byte[]::new);
  }

  /**
   * The bytes of one frame.
   *
   * @param arrays makes the array that they go to, of this size or more
   * @param size how many there must be
   * @throws com.github.luben.zstd.ZstdException when the frame is broken or has more
   * @return null when it has less, or says that it has more than such a frame can have
   */
  public static byte[] decompress(
      byte[] source, int start, int length, int size, IntFunction<byte[]> arrays) {
    long told = Zstd.getFrameContentSize(source, start, length);
    if ((told >= 0 && told != size) || size > PLAIN + (long) length * MOST_RATIO) {
      return null; // before anything is made for it
    }
    ZstdDecompressCtx context = DECOMPRESSORS.poll();
    if (context == null) {
      context = new ZstdDecompressCtx();
    }
    try {
      byte[] target = arrays.apply(size);
      int made = context.decompressByteArray(target, 0, size, source, start, length);
      return made == size ? target : null;
    } finally {
      DECOMPRESSORS.add(context);
    }
  }
}
