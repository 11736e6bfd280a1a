package org.ysteron.sql.keep;

import java.util.Arrays;
import org.ysteron.data.Batch;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.rows.Gather;

/** The rows of batches that count. */
public final class Selected {
  private static volatile int[] upTo = {};

  private Selected() {}

  /** The positions of the rows, at least as many as count. */
  public static int[] rows(SelectedBatch batch) {
    return batch.rows() == null ? upTo(batch.count()) : batch.rows();
  }

  /** The numbers from 0 on, at least so many. */
  public static int[] upTo(int count) {
    int[] known = upTo;
    if (known.length < count) {
      known = new int[Math.max(count, 2 * known.length)];
      for (int i = 0; i < known.length; i++) {
        known[i] = i;
      }
      upTo = known;
    }
    return known;
  }

  /** The numbers from one on, up to another that is excluded. */
  public static int[] between(int from, int to) {
    int[] numbers = new int[to - from];
    for (int i = 0; i < numbers.length; i++) {
      numbers[i] = from + i;
    }
    return numbers;
  }

  /** The rows alone, in vectors that stay as they are. */
  public static Batch dense(SelectedBatch batch) {
    if (batch.rows() == null && batch.count() == batch.batch().size()) {
      return batch.batch();
    }
    return Gather.rows(batch.batch(), Arrays.copyOf(rows(batch), batch.count()));
  }
}
