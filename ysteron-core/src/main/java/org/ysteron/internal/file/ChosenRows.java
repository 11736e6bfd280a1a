package org.ysteron.internal.file;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.column.ColumnSource;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;

/**
 * Reads the columns that a filter tests first, and the others only where rows pass: not at all in a
 * batch where none does, row by row where they are few. For one thread.
 */
public final class ChosenRows {
  /** One row of so many, or less, is worth passing over the others. */
  static final int FEW = 8;

  private final Filter filter;
  private final LiveRows live;
  private final List<Field> columns;
  private final int outputs;
  private final boolean[] tested;
  private final Type.Struct testedColumns;
  private int[] rows = {};
  private long[] selected;

  /** Which rows of a file count. */
  public interface LiveRows {
    /**
     * Tells the rows that count.
     *
     * @param position the first row's place in the file
     * @param count how many rows are looked at
     * @param rows gets how far behind the first those are that count, ascending
     * @return how many count
     */
    int live(long position, int count, int[] rows);
  }

  /** {@code outputs}: how many of the columns are wanted; those behind them are only tested. */
  ChosenRows(Filter filter, LiveRows live, Type.Struct columns, int outputs) {
    this.filter = filter;
    this.live = live;
    this.columns = columns.fields();
    this.outputs = outputs;
    this.tested = new boolean[this.columns.size()];
    List<Field> testing = new ArrayList<>();
    for (int c = 0; c < tested.length; c++) {
      tested[c] = filter.tests(this.columns.get(c));
      if (tested[c]) {
        testing.add(this.columns.get(c));
      }
    }
    this.testedColumns = new Type.Struct(testing);
  }

  /** Lets the columns that are only looked at here use their arrays again. */
  void prepare(List<ColumnSource> sources) {
    for (int c = 0; c < tested.length; c++) {
      if (tested[c]) {
        sources.get(c).reuseArrays();
      }
    }
  }

  /** Of the rows of the last batch, those that passed. */
  long[] selected() {
    return selected;
  }

  /** The rows that count and pass; empty when there are none. */
  Optional<Batch> read(List<ColumnSource> sources, long from, int count, long position) {
    if (rows.length < count) {
      rows = new int[count];
    }
    int left = live.live(position, count, rows);
    Vector[] vectors = new Vector[sources.size()];
    if (left > 0 && !testedColumns.fields().isEmpty()) {
      left = test(sources, vectors, from, count, left);
    } else if (left > 0) {
      left = filter.select(new Batch(testedColumns, count, List.of()), rows, left, rows);
    }
    if (left == 0) {
      pass(sources, vectors, from, count);
      return Optional.empty();
    }
    select(count, left);
    return Optional.of(output(sources, vectors, from, count, left));
  }

  private int test(List<ColumnSource> sources, Vector[] vectors, long from, int count, int left) {
    List<Vector> read = new ArrayList<>();
    for (int c = 0; c < tested.length; c++) {
      if (tested[c]) {
        vectors[c] = sources.get(c).read(from, count);
        read.add(vectors[c]);
      }
    }
    return filter.select(new Batch(testedColumns, count, read), rows, left, rows);
  }

  private void select(int count, int left) {
    selected = new long[(count + 63) >> 6];
    for (int j = 0; j < left; j++) {
      selected[rows[j] >> 6] |= 1L << rows[j];
    }
  }

  /** Has columns that cannot pass over rows by themselves do so. */
  private static void pass(List<ColumnSource> sources, Vector[] vectors, long from, int count) {
    for (int c = 0; c < vectors.length; c++) {
      if (vectors[c] == null) {
        sources.get(c).pass(from, count);
      }
    }
  }

  private Batch output(
      List<ColumnSource> sources, Vector[] vectors, long from, int count, int left) {
    int[] positions = Arrays.copyOf(rows, left);
    boolean few = left * FEW <= count;
    int[] runs = few ? Gather.runs(selected) : null;
    List<Vector> chosen = new ArrayList<>();
    List<Vector> whole = new ArrayList<>();
    for (int c = 0; c < sources.size(); c++) {
      if (c >= outputs) {
        if (vectors[c] == null) {
          sources.get(c).pass(from, count);
        }
        continue;
      }
      if (vectors[c] != null) {
        chosen.add(Gather.values(vectors[c], positions)); // its arrays are used again
      } else if (few) {
        chosen.add(sources.get(c).readRuns(from, count, runs, left));
      } else {
        chosen.add(null);
        whole.add(sources.get(c).read(from, count));
      }
    }
    fill(chosen, whole, count);
    return new Batch(new Type.Struct(columns.subList(0, outputs)), left, chosen);
  }

  /** Puts columns that were read as a whole in their places, with the rows that passed. */
  private void fill(List<Vector> chosen, List<Vector> whole, int count) {
    if (whole.isEmpty()) {
      return;
    }
    List<Field> fields = new ArrayList<>();
    for (int c = 0; c < outputs; c++) {
      if (chosen.get(c) == null) {
        fields.add(columns.get(c));
      }
    }
    Batch kept = Gather.keep(new Batch(new Type.Struct(fields), count, whole), selected);
    int next = 0;
    for (int c = 0; c < outputs; c++) {
      if (chosen.get(c) == null) {
        chosen.set(c, kept.vectors().get(next++));
      }
    }
  }
}
