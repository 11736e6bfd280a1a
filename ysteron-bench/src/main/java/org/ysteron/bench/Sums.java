package org.ysteron.bench;

import org.ysteron.data.Batch;
import org.ysteron.data.Vector;

/**
 * Adds up what was read, so that both sides do the same with it and the results can be compared.
 */
final class Sums {
  private Sums() {}

  static long of(long[] values, int count) {
    long sum = 0;
    for (int i = 0; i < count; i++) {
      sum += values[i];
    }
    return sum;
  }

  static long of(int[] values, int count) {
    long sum = 0;
    for (int i = 0; i < count; i++) {
      sum += values[i];
    }
    return sum;
  }

  /** Numbers as they are, of texts the lengths. */
  static long of(Batch batch) {
    long sum = 0;
    for (Vector vector : batch.vectors()) {
      if (vector instanceof Vector.OfLong longs) {
        sum += of(longs.values(), vector.size());
      } else if (vector instanceof Vector.OfInt ints) {
        sum += of(ints.values(), vector.size());
      } else if (vector instanceof Vector.OfDouble doubles) {
        double[] values = doubles.values();
        for (int i = 0; i < vector.size(); i++) {
          sum += Math.round(values[i]);
        }
      } else {
        sum += of(((Vector.OfBytes) vector).lengths(), vector.size());
      }
    }
    return sum;
  }

  static void same(long expected, long found) {
    if (expected != found) {
      throw new IllegalStateException("sums differ: " + expected + " and " + found);
    }
  }
}
