package org.ysteron.internal.keys;

import java.nio.ByteBuffer;
import java.util.Arrays;
import java.util.concurrent.ThreadLocalRandom;
import net.openhft.hashing.LongTupleHashFunction;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.Ordered;

/**
 * 128-bit hashes of the values of some columns: equal values, as SQL compares them, have equal
 * hashes, and by chance others do in one of 10²² cases for a hundred million rows against a
 * billion. XXH3 with a seed drawn when the process starts, so that nobody can choose values that
 * meet. For one thread.
 */
public final class KeyHash {
  private static final LongTupleHashFunction FUNCTION =
      LongTupleHashFunction.xx128(ThreadLocalRandom.current().nextLong());

  private final long[] result = FUNCTION.newResultArray();
  private byte[] bytes = new byte[256];
  private ByteBuffer buffer = ByteBuffer.wrap(bytes);

  /** Hashes a row; false, and no hash, when one of the values is null. */
  public boolean hash(Vector[] key, int row) {
    buffer.clear();
    for (Vector vector : key) {
      if (vector.isNull(row)) {
        return false;
      }
      put(vector, row);
    }
    FUNCTION.hashBytes(bytes, 0, buffer.position(), result);
    return true;
  }

  public long first() {
    return result[0];
  }

  public long second() {
    return result[1];
  }

  /**
   * A cheap hash of a row, to find out that a key is not among some; nulls and equal values alike
   * as far as it goes.
   */
  public static long quick(Vector[] key, int row) {
    long hash = 0;
    for (Vector vector : key) {
      hash = mixed(hash, held(vector, row));
    }
    return hash;
  }

  /** {@link #quick(Vector[], int)} of the first rows, column by column. */
  static void quick(Vector[] key, int rows, long[] hashes) {
    Arrays.fill(hashes, 0, rows, 0);
    for (Vector vector : key) {
      if (vector instanceof Vector.OfLong of) {
        long[] values = of.values();
        for (int i = 0; i < rows; i++) {
          hashes[i] = mixed(hashes[i], values[i]);
        }
      } else if (vector instanceof Vector.OfInt of) {
        int[] values = of.values();
        for (int i = 0; i < rows; i++) {
          hashes[i] = mixed(hashes[i], values[i]);
        }
      } else {
        for (int i = 0; i < rows; i++) {
          hashes[i] = mixed(hashes[i], held(vector, i));
        }
      }
    }
  }

  private static long mixed(long hash, long value) {
    long mixed = (hash ^ value) * 0x9E3779B97F4A7C15L;
    return mixed ^ mixed >>> 29;
  }

  private static long held(Vector vector, int row) {
    if (vector instanceof Vector.OfBytes of) {
      int end = of.starts()[row] + of.lengths()[row];
      long text = of.lengths()[row];
      for (int at = of.starts()[row]; at < end; at++) {
        text = text * 31 + of.data()[at];
      }
      return text;
    }
    return Ordered.number(vector, row);
  }

  private void put(Vector vector, int row) {
    if (vector instanceof Vector.OfBytes of) {
      int length = of.lengths()[row];
      room(length + Integer.BYTES);
      buffer.putInt(length).put(of.data(), of.starts()[row], length);
      return;
    }
    room(Long.BYTES);
    buffer.putLong(Ordered.number(vector, row));
  }

  private void room(int more) {
    if (buffer.remaining() < more) {
      int at = buffer.position();
      bytes = Arrays.copyOf(bytes, Math.max(bytes.length * 2, at + more));
      buffer = ByteBuffer.wrap(bytes).position(at);
    }
  }
}
