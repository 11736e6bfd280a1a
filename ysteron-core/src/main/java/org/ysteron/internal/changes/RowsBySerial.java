package org.ysteron.internal.changes;

import org.ysteron.data.Batch;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;

/** Rows in memory that are found by their serials. For one thread. */
final class RowsBySerial implements RowsBefore {
  private final BatchRows rows = new BatchRows();
  private final SerialRuns places = new SerialRuns(Integer.MAX_VALUE - 8);

  private RowsBySerial() {}

  /** Reads all rows of a scan. */
  static RowsBySerial of(FilesScan scan) {
    RowsBySerial all = new RowsBySerial();
    scan.each(all::add);
    all.places.sort();
    return all;
  }

  private void add(FileRows read) {
    int batch = rows.add(read.rows());
    for (int i = 0; i < read.size(); i++) {
      places.add(read.serial(i), 0, batch, i, 1);
    }
  }

  @Override
  public Batch of(FileRows after, long[] serials) {
    int[] batch = new int[serials.length];
    int[] position = new int[serials.length];
    for (int i = 0; i < serials.length; i++) {
      int run = places.find(serials[i]);
      batch[i] = places.file(run);
      position[i] = places.position(run) + (int) (serials[i] - places.serial(run));
    }
    return rows.rows(batch, position);
  }
}
