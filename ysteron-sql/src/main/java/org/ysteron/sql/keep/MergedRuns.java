package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.PriorityQueue;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.read.Source;

/**
 * Sorted files as one, by a merge of all at once (Knuth, The Art of Computer Programming 3, 5.4.1);
 * equal rows stay in the order of the files. For one thread.
 */
public final class MergedRuns implements Source<SelectedBatch> {
  private static final int BATCH = 8192;

  private final Schema columns;
  private final PriorityQueue<Run> runs;

  /** The row of a file that is next. */
  private static final class Run {
    final int number;
    final Source<SelectedBatch> rows;
    Batch batch;
    int row;

    Run(int number, Source<SelectedBatch> rows) {
      this.number = number;
      this.rows = rows;
    }

    boolean advance() {
      row++;
      while (batch == null || row >= batch.size()) {
        Optional<SelectedBatch> more = rows.next();
        if (more.isEmpty()) {
          rows.close();
          return false;
        }
        batch = more.get().batch();
        row = 0;
      }
      return true;
    }
  }

  public MergedRuns(Spill spill, Schema columns, List<Ordering.Order> orders) {
    this.columns = columns;
    this.runs =
        new PriorityQueue<>(
            (one, other) -> {
              int order = Ordering.compare(one.batch, one.row, other.batch, other.row, orders);
              return order != 0 ? order : Integer.compare(one.number, other.number);
            });
    for (DataFile file : spill.files(0)) {
      Run run = new Run(runs.size(), spill.rows(file));
      if (run.advance()) {
        runs.add(run);
      }
    }
  }

  @Override
  public Optional<SelectedBatch> next() {
    if (runs.isEmpty()) {
      return Optional.empty();
    }
    List<VectorBuilder> builders = new ArrayList<>();
    for (Field field : columns.columns()) {
      builders.add(new VectorBuilder(field.type(), BATCH));
    }
    int count = 0;
    int[] one = new int[1];
    while (count < BATCH && !runs.isEmpty()) {
      Run least = runs.poll();
      one[0] = least.row;
      for (int c = 0; c < builders.size(); c++) {
        builders.get(c).addAll(least.batch.vectors().get(c), one, 1);
      }
      count++;
      if (least.advance()) {
        runs.add(least);
      }
    }
    List<Vector> vectors = builders.stream().map(VectorBuilder::buildLast).toList();
    return Optional.of(new SelectedBatch(new Batch(columns.struct(), count, vectors), null, count));
  }

  @Override
  public void close() {
    runs.forEach(run -> run.rows.close());
    runs.clear();
  }
}
