package org.ysteron.internal.file;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import java.util.Arrays;
import java.util.Optional;
import net.openhft.hashing.LongHashFunction;
import org.apache.parquet.column.values.bloomfilter.BlockSplitBloomFilter;
import org.apache.parquet.column.values.bloomfilter.BloomFilter;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/**
 * The bloom filter of one key column of a row group, of the size that its values need; or none when
 * they ascend, for then the ranges of pages tell as much. For one thread.
 *
 * <p>How many values differ is known only when all are there. So the filter is filled at the
 * largest size and folded: a block of a split-block filter (Parquet format, BloomFilter.md) is
 * found by the high bits of a value's hash, so that a filter of half the size has in each block
 * what two neighbours had. Hashes are xxHash64 of the values as they are stored, with the seed 0.
 */
final class KeyFilter {
  private static final LongHashFunction HASH = LongHashFunction.xx();
  private static final int MOST_BYTES = 1 << 20;
  private static final int BLOCK_BYTES = 32;
  private static final int WORD_BITS = 32;
  private static final double WRONG = 0.01;
  private static final int FEW = 1024;

  /** So many hashes are kept, 32 MiB, as long as there may be no filter at all. */
  private static final int MOST_KEPT = 1 << 22;

  private long[] kept = new long[FEW];
  private int count;
  private BloomFilter full;
  private boolean ascends = true;
  private long lastNumber = Long.MIN_VALUE;
  private byte[] lastBytes = {};

  /** Adds the values of a vector. */
  void add(Vector vector) {
    if (vector instanceof Vector.OfLong longs) {
      for (int i = 0; i < vector.size(); i++) {
        add(vector, i, HASH.hashLong(longs.values()[i]), longs.values()[i]);
      }
    } else if (vector instanceof Vector.OfInt ints) {
      for (int i = 0; i < vector.size(); i++) {
        add(vector, i, HASH.hashInt(ints.values()[i]), ints.values()[i]);
      }
    } else if (vector instanceof Vector.OfBytes bytes) {
      add(bytes);
    } else {
      addOthers(vector);
    }
  }

  private void add(Vector vector, int i, long hash, long number) {
    if (!vector.isNull(i)) {
      ascends &= number >= lastNumber;
      lastNumber = number;
      add(hash);
    }
  }

  private void add(Vector.OfBytes vector) {
    byte[] data = vector.data();
    for (int i = 0; i < vector.size(); i++) {
      if (vector.isNull(i)) {
        continue;
      }
      int start = vector.starts()[i];
      int length = vector.lengths()[i];
      if (ascends) {
        ascends =
            Arrays.compareUnsigned(data, start, start + length, lastBytes, 0, lastBytes.length)
                >= 0;
        lastBytes = Arrays.copyOfRange(data, start, start + length);
      }
      if (vector.type() instanceof Type.Decimal) {
        add(HASH.hashBytes(Shredder.stored(vector, i).getBytesUnsafe()));
      } else {
        add(HASH.hashBytes(data, start, length));
      }
    }
  }

  private void addOthers(Vector vector) {
    ascends = false;
    for (int i = 0; i < vector.size(); i++) {
      if (vector.isNull(i)) {
        continue;
      }
      if (vector instanceof Vector.OfDouble doubles) {
        add(HASH.hashLong(Double.doubleToRawLongBits(doubles.values()[i])));
      } else if (vector instanceof Vector.OfFloat floats) {
        add(HASH.hashInt(Float.floatToRawIntBits(floats.values()[i])));
      } else {
        count = -1; // of two values no filter is worth anything
        return;
      }
    }
  }

  private void add(long hash) {
    if (full != null) {
      full.insertHash(hash);
      return;
    }
    if (count == kept.length && ascends && count < MOST_KEPT) {
      kept = Arrays.copyOf(kept, 4 * count);
    }
    if (count < FEW || (ascends && count < kept.length)) {
      kept[count++] = hash;
    } else {
      full = filled(MOST_BYTES);
      full.insertHash(hash);
      kept = null;
    }
  }

  private BloomFilter filled(int bytes) {
    BloomFilter filter = new BlockSplitBloomFilter(bytes);
    for (int i = 0; i < count; i++) {
      filter.insertHash(kept[i]);
    }
    return filter;
  }

  /** The filter of all values; empty when there is none. */
  Optional<BloomFilter> end() {
    if (ascends || count <= 0) {
      return Optional.empty();
    }
    return Optional.of(full == null ? filled(bytes(count)) : folded(full));
  }

  /** What so many different values need, if no more than one in a hundred is to be wrong. */
  private static int bytes(long values) {
    int bytes = BlockSplitBloomFilter.optimalNumOfBits(values, WRONG) / Byte.SIZE;
    return Math.min(MOST_BYTES, Math.max(BLOCK_BYTES, Integer.highestOneBit(2 * bytes - 1)));
  }

  /** A filter as small as what is in it allows. */
  static BloomFilter folded(BloomFilter filter) {
    byte[] bits = bits(filter);
    int bytes = bytes(values(bits));
    int group = bits.length / bytes;
    byte[] folded = new byte[bytes];
    for (int block = 0; block < bytes; block += BLOCK_BYTES) {
      for (int at = 0; at < BLOCK_BYTES; at += Long.BYTES) {
        long word = 0;
        for (int from = 0; from < group; from++) {
          word |= (long) LONGS.get(bits, block * group + from * BLOCK_BYTES + at);
        }
        LONGS.set(folded, block + at, word);
      }
    }
    return new BlockSplitBloomFilter(folded);
  }

  private static byte[] bits(BloomFilter filter) {
    ByteArrayOutputStream bits = new ByteArrayOutputStream(filter.getBitsetSize());
    try {
      filter.writeTo(bits);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    return bits.toByteArray();
  }

  /** About how many values are in a filter: each sets one bit of each word of its block. */
  private static long values(byte[] bits) {
    long set = 0;
    for (int i = 0; i < bits.length; i += Long.BYTES) {
      set += Long.bitCount((long) LONGS.get(bits, i));
    }
    double share = set / ((double) Byte.SIZE * bits.length);
    double load = share >= 1 ? WORD_BITS * Long.SIZE : -WORD_BITS * Math.log1p(-share);
    return Math.max(1, Math.round(load * bits.length / BLOCK_BYTES));
  }

  private static final VarHandle LONGS =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.LITTLE_ENDIAN);
}
