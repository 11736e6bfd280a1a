package org.ysteron.internal.file;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Arrays;
import java.util.Base64;
import java.util.zip.CRC32C;
import org.ysteron.error.DamagedException;

/**
 * A CRC-32C (RFC 3720) for every 64 KiB of a data file from its first byte to before its footer,
 * kept in the footer, which the file entry's SHA-256 covers. So any range of the file can be
 * checked whoever reads it, page headers and indexes included. Immutable.
 */
final class BlockChecksums {
  static final int BLOCK = 1 << 16;

  /** The key of the footer's metadata. */
  static final String KEY = "ysteron.blocks";

  private static final String PREFIX = "crc32c/65536:";

  private final int[] sums;
  private final long coveredBytes;

  BlockChecksums(int[] sums, long coveredBytes) {
    this.sums = sums;
    this.coveredBytes = coveredBytes;
    if (sums.length != (coveredBytes + BLOCK - 1) / BLOCK) {
      throw new DamagedException(
          "A footer has checksums of %d blocks for %d bytes.".formatted(sums.length, coveredBytes));
    }
  }

  long coveredBytes() {
    return coveredBytes;
  }

  String toText() {
    ByteBuffer bytes = ByteBuffer.allocate(4 * sums.length).order(ByteOrder.LITTLE_ENDIAN);
    bytes.asIntBuffer().put(sums);
    return PREFIX + Base64.getEncoder().encodeToString(bytes.array());
  }

  static BlockChecksums parse(String text, long coveredBytes) {
    if (text == null || !text.startsWith(PREFIX)) {
      throw new DamagedException("The footer has no block checksums of a known kind.");
    }
    try {
      byte[] bytes = Base64.getDecoder().decode(text.substring(PREFIX.length()));
      int[] sums = new int[bytes.length / 4];
      ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN).asIntBuffer().get(sums);
      return new BlockChecksums(sums, coveredBytes);
    } catch (IllegalArgumentException e) {
      throw new DamagedException("The footer's block checksums are not in base 64.", e);
    }
  }

  /** Whether the content of a block is what it was when it was written. */
  boolean matches(long block, ByteBuffer content) {
    return is(content, sums[(int) block]);
  }

  static boolean is(ByteBuffer content, int sum) {
    CRC32C crc = new CRC32C();
    crc.update(content);
    return (int) crc.getValue() == sum;
  }

  /** The bytes in a block. */
  int length(long block) {
    return (int) Math.min(BLOCK, coveredBytes - block * BLOCK);
  }

  /** Collects checksums while a file is written. */
  static final class Builder {
    private final CRC32C crc = new CRC32C();
    private int[] sums = new int[64];
    private int full;
    private int inBlock;
    private long total;

    void update(byte[] bytes, int start, int length) {
      int at = start;
      int rest = length;
      while (rest > 0) {
        int take = Math.min(rest, BLOCK - inBlock);
        crc.update(bytes, at, take);
        at += take;
        rest -= take;
        inBlock += take;
        if (inBlock == BLOCK) {
          endBlock();
        }
      }
      total += length;
    }

    private void endBlock() {
      if (full == sums.length) {
        sums = Arrays.copyOf(sums, full * 2);
      }
      sums[full++] = (int) crc.getValue();
      crc.reset();
      inBlock = 0;
    }

    /** The checksums of all that came so far; nothing may come after. */
    BlockChecksums build() {
      if (inBlock > 0) {
        endBlock();
      }
      return new BlockChecksums(Arrays.copyOf(sums, full), total);
    }
  }
}
