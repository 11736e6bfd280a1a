package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
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
  private final List<Ordering.Order> orders;
  private final List<Run> runs = new ArrayList<>();
  private final Vector[][] vectors;
  private final int[] which = new int[BATCH];
  private final int[] rows = new int[BATCH];

  /** The runs that have rows, as a heap: the first one has the least row. */
  private final Run[] heap;

  private int left;

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

    /** Reads the next batch; false at the end. */
    boolean read() {
      do {
        Optional<SelectedBatch> more = rows.next();
        if (more.isEmpty()) {
          rows.close();
          return false;
        }
        batch = more.get().batch();
      } while (batch.size() == 0);
      row = 0;
      return true;
    }
  }

  public MergedRuns(Spill spill, Schema columns, List<Ordering.Order> orders) {
    this.columns = columns;
    this.orders = orders;
    List<DataFile> files = spill.files(0);
    this.vectors = new Vector[columns.columns().size()][files.size()];
    this.heap = new Run[files.size()];
    for (DataFile file : files) {
      Run run = new Run(runs.size(), spill.rows(file));
      runs.add(run);
      if (run.read()) {
        show(run);
        heap[left++] = run;
      }
    }
    for (int i = left / 2; i >= 0 && left > 0; i--) {
      sink(i);
    }
  }

  private void show(Run run) {
    for (int c = 0; c < vectors.length; c++) {
      vectors[c][run.number] = run.batch.vectors().get(c);
    }
  }

  private boolean isBefore(Run one, Run other) {
    int order = Ordering.compare(one.batch, one.row, other.batch, other.row, orders);
    return order < 0 || (order == 0 && one.number < other.number);
  }

  /** Moves a run down to its place in the heap. */
  private void sink(int from) {
    Run run = heap[from];
    int at = from;
    while (2 * at + 1 < left) {
      int child = 2 * at + 1;
      child += child + 1 < left && isBefore(heap[child + 1], heap[child]) ? 1 : 0;
      if (!isBefore(heap[child], run)) {
        break;
      }
      heap[at] = heap[child];
      at = child;
    }
    heap[at] = run;
  }

  @Override
  public Optional<SelectedBatch> next() {
    if (left == 0) {
      return Optional.empty();
    }
    List<VectorBuilder> builders = new ArrayList<>();
    for (Field field : columns.columns()) {
      builders.add(new VectorBuilder(field.type(), BATCH));
    }
    int all = 0;
    int picked = 0;
    while (all < BATCH && left > 0) {
      Run least = heap[0];
      which[picked] = least.number;
      rows[picked++] = least.row++;
      all++;
      if (least.row == least.batch.size()) {
        take(builders, picked);
        picked = 0;
        if (least.read()) {
          show(least);
        } else {
          heap[0] = heap[--left];
        }
      }
      if (left > 0) {
        sink(0);
      }
    }
    take(builders, picked);
    List<Vector> told = builders.stream().map(VectorBuilder::buildLast).toList();
    return Optional.of(new SelectedBatch(new Batch(columns.struct(), all, told), null, all));
  }

  /** Takes the rows that were picked, while their batches are there. */
  private void take(List<VectorBuilder> builders, int count) {
    for (int c = 0; c < vectors.length; c++) {
      builders.get(c).addAll(vectors[c], which, rows, count);
    }
  }

  @Override
  public void close() {
    runs.forEach(run -> run.rows.close());
    left = 0;
  }
}
