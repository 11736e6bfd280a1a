package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;

/** Rows in memory that are found by their serials. For one thread. */
final class RowsBySerial {
  private final List<Batch> batches = new ArrayList<>();
  private final SerialRuns places = new SerialRuns(Integer.MAX_VALUE - 8);

  private RowsBySerial() {}

  /** Reads all rows of a scan. */
  static RowsBySerial of(FilesScan scan) {
    RowsBySerial rows = new RowsBySerial();
    scan.each(rows::add);
    rows.places.sort();
    return rows;
  }

  private void add(FileRows read) {
    for (int i = 0; i < read.size(); i++) {
      places.add(read.serial(i), 0, batches.size(), i, 1);
    }
    batches.add(read.rows());
  }

  /** The rows of some serials, all of which are there, in their order. */
  Batch rows(long[] serials) {
    int[] batch = new int[serials.length];
    int[] position = new int[serials.length];
    for (int i = 0; i < serials.length; i++) {
      int run = places.find(serials[i]);
      batch[i] = places.file(run);
      position[i] = places.position(run) + (int) (serials[i] - places.serial(run));
    }
    Batch first = batches.get(0);
    List<Vector> vectors = new ArrayList<>();
    for (int column = 0; column < first.vectors().size(); column++) {
      vectors.add(column(column, first.vectors().get(column), batch, position));
    }
    return new Batch(first.columns(), serials.length, vectors);
  }

  private Vector column(int column, Vector like, int[] batch, int[] position) {
    VectorBuilder values = new VectorBuilder(like.type(), position.length);
    int[] some = new int[position.length];
    int i = 0;
    while (i < position.length) {
      int from = batch[i];
      int count = 0;
      while (i < position.length && batch[i] == from) {
        some[count++] = position[i++];
      }
      values.addAll(batches.get(from).vectors().get(column), some, count);
    }
    return values.build();
  }
}
