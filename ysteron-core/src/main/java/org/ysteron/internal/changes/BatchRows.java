package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.rows.Gather;

/** Rows in memory, taken in any order. For one thread. */
public final class BatchRows {
  private final List<Batch> batches = new ArrayList<>();

  /** Adds some rows; returns the number of their batch, counted from 0. */
  public int add(Batch rows) {
    batches.add(rows);
    return batches.size() - 1;
  }

  /** The rows at some places, of which there is one at least. */
  public Batch rows(int[] batch, int[] position) {
    Batch first = batches.get(batch[0]);
    if (isOne(batch)) {
      return Gather.rows(first, position);
    }
    List<Vector> vectors = new ArrayList<>();
    for (int column = 0; column < first.vectors().size(); column++) {
      vectors.add(column(column, first.vectors().get(column), batch, position));
    }
    return new Batch(first.columns(), position.length, vectors);
  }

  private static boolean isOne(int[] batch) {
    for (int other : batch) {
      if (other != batch[0]) {
        return false;
      }
    }
    return true;
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
