package org.ysteron.internal.bytes;

import java.util.ArrayDeque;

/**
 * Arrays that serve again, for what is read and thrown away soon. They are not cleared: who takes
 * one reads only what it has written. Thread-safe.
 */
public final class SpareBytes {
  private static final long MOST_BYTES = 24L << 20;
  private static final int MOST_ARRAYS = 64;

  private static final ArrayDeque<byte[]> SPARE = new ArrayDeque<>();
  private static long bytes;

  private SpareBytes() {}

  /** An array of at least some bytes, with anything in it. */
  public static byte[] take(int size) {
    int made = rounded(size);
    synchronized (SPARE) {
      byte[] best = null;
      for (byte[] each : SPARE) {
        boolean fits = each.length >= size && each.length <= made * 2L;
        best = fits && (best == null || each.length < best.length) ? each : best;
      }
      if (best != null) {
        SPARE.remove(best);
        bytes -= best.length;
        return best;
      }
    }
    return new byte[made];
  }

  /** A size that others round to as well: up to an eighth more. */
  private static int rounded(int size) {
    int step = Math.max(1 << 10, Integer.highestOneBit(Math.max(1, size)) >> 3);
    return (int) Math.min(Integer.MAX_VALUE - 8, ((long) size + step - 1) / step * step);
  }

  /** Gives an array away that nobody uses any more; the oldest are let go when there are many. */
  public static void give(byte[] array) {
    synchronized (SPARE) {
      SPARE.addLast(array);
      bytes += array.length;
      while (bytes > MOST_BYTES || SPARE.size() > MOST_ARRAYS) {
        bytes -= SPARE.removeFirst().length;
      }
    }
  }
}
