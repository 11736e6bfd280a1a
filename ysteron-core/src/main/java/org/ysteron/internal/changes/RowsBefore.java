package org.ysteron.internal.changes;

import org.ysteron.data.Batch;
import org.ysteron.internal.read.FileRows;

/** Finds the other form of updated rows. */
public interface RowsBefore {

  /**
   * The other forms of some rows, in their order.
   *
   * @param rows the rows, with more columns than are shown
   * @param serials their serials
   */
  Batch of(FileRows rows, long[] serials);
}
