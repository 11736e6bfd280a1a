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
import org.ysteron.internal.filter.ColumnTest;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.Selections;

/**
 * Reads the columns that a filter tests first, and the others only where rows pass: not at all in a
 * batch where none does, row by row where they are few. For one thread.
 */
public final class ChosenRows {
  /** One row of so many, or less, is worth passing over the others. */
  private static final int FEW = 8;

  private final Filter filter;
  private final LiveRows live;
  private final List<Field> columns;
  private final int outputs;
  private final Type.Struct outputColumns;
  private final TestOrder order;
  private final boolean[] tested;
  private final boolean[] inRest;
  private final Type.Struct restColumns;
  private final boolean carries;
  private int[] rows = {};
  private int lookedAt;
  private int passed;
  private long[] selected;
  private int[] kept;

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

  /**
   * Of the rows of a file.
   *
   * @param outputs how many of the columns are wanted; those behind them are only tested
   * @param carries whether a batch in which many rows pass is left as it is; {@link #kept} tells
   *     which of its rows count
   */
  ChosenRows(Filter filter, LiveRows live, Type.Struct columns, int outputs, boolean carries) {
    this.carries = carries;
    this.filter = filter;
    this.live = live;
    this.columns = columns.fields();
    this.outputs = outputs;
    this.outputColumns = new Type.Struct(this.columns.subList(0, outputs));
    this.tested = new boolean[this.columns.size()];
    this.inRest = new boolean[this.columns.size()];
    List<Field> rest = new ArrayList<>();
    for (int c = 0; c < tested.length; c++) {
      Field column = this.columns.get(c);
      tested[c] = filter.tests(column);
      inRest[c] = filter.restTests(column);
      if (inRest[c]) {
        rest.add(column);
      }
    }
    this.restColumns = new Type.Struct(rest);
    this.order = new TestOrder(filter, this.columns);
  }

  /** Of the rows of the last batch, those that passed; null for all. */
  long[] selected() {
    if (selected == null && passed < lookedAt) {
      selected = new long[(lookedAt + 63) >> 6];
      Selections.mark(rows, passed, selected);
    }
    return selected;
  }

  /** The rows of the last batch that count; null for all. */
  int[] kept() {
    return kept;
  }

  /** The rows that count and pass; empty when there are none. */
  Optional<Batch> read(List<ColumnSource> sources, long from, int count, long position) {
    int left = live(position, count);
    Vector[] vectors = new Vector[sources.size()];
    left = left == 0 ? 0 : test(sources, vectors, from, count, left);
    if (left == 0) {
      pass(sources, vectors, 0, from, count);
      return Optional.empty();
    }
    select(count, left);
    if (carries && left < count && !isFew()) {
      return Optional.of(whole(sources, vectors, from, count, left));
    }
    return Optional.of(output(sources, vectors, from, count, left));
  }

  /** The rows that count, of columns that were read already; empty when there are none. */
  Optional<Batch> keep(List<Vector> vectors, int count, long position) {
    int left = live(position, count);
    if (left == 0) {
      return Optional.empty();
    }
    select(count, left);
    Batch read = Gather.columns(new Batch(new Type.Struct(columns), count, vectors), outputs);
    if (carries && left < count) {
      kept = Arrays.copyOf(rows, left);
      return Optional.of(read);
    }
    return Optional.of(selected() == null ? read : Gather.keep(read, selected()));
  }

  private int live(long position, int count) {
    if (rows.length < count) {
      rows = new int[count];
    }
    return live.live(position, count, rows);
  }

  /** Column after column as long as rows are left, then what tests several. */
  private int test(List<ColumnSource> sources, Vector[] vectors, long from, int count, int left) {
    int rest = left;
    for (TestOrder.Step step : order.steps()) {
      if (rest == 0) {
        return 0;
      }
      ColumnTest test = step.test();
      int c = step.column();
      int came = rest;
      if (sources.get(c).narrows()) {
        rest = sources.get(c).narrow(from, count, test, rows, rest);
      } else {
        vectors[c] = vectors[c] == null ? sources.get(c).read(from, count) : vectors[c];
        rest = test.select(vectors[c], rows, rest, rows);
      }
      step.learn(came, rest);
    }
    if (rest == 0) {
      return 0;
    }
    List<Vector> read = new ArrayList<>(restColumns.fields().size());
    for (int c = 0; c < inRest.length; c++) {
      if (inRest[c]) {
        Vector vector = vectors[c];
        if (vector == null) {
          boolean narrows = sources.get(c).narrows();
          vector =
              narrows ? sources.get(c).narrowed(from, count) : sources.get(c).read(from, count);
          vectors[c] = narrows ? null : vector;
        }
        read.add(vector);
      }
    }
    return filter.rest(new Batch(restColumns, count, read), rows, rest, rows);
  }

  private boolean isFew() {
    return passed * FEW <= lookedAt;
  }

  private void select(int count, int left) {
    lookedAt = count;
    passed = left;
    selected = null;
    kept = null;
  }

  /** Has columns from one on that cannot pass over rows by themselves do so. */
  private static void pass(
      List<ColumnSource> sources, Vector[] vectors, int first, long from, int count) {
    for (int c = first; c < vectors.length; c++) {
      if (vectors[c] == null) {
        sources.get(c).pass(from, count);
      }
    }
  }

  /** All rows, in which those that do not pass may have any values. */
  private Batch whole(
      List<ColumnSource> sources, Vector[] vectors, long from, int count, int left) {
    pass(sources, vectors, outputs, from, count);
    List<Vector> all = new ArrayList<>(outputs);
    for (int c = 0; c < outputs; c++) {
      if (vectors[c] != null) {
        all.add(vectors[c]);
      } else {
        ColumnSource source = sources.get(c);
        all.add(tested[c] ? source.whole(from, count) : source.read(from, count));
      }
    }
    kept = Arrays.copyOf(rows, left);
    return new Batch(outputColumns, count, all);
  }

  private Batch output(
      List<ColumnSource> sources, Vector[] vectors, long from, int count, int left) {
    pass(sources, vectors, outputs, from, count);
    if (outputs == 0) {
      return new Batch(outputColumns, left, List.of());
    }
    int[] positions = Arrays.copyOf(rows, left);
    int[] runs = null;
    List<Vector> chosen = new ArrayList<>(outputs);
    List<Vector> whole = new ArrayList<>();
    for (int c = 0; c < outputs; c++) {
      if (vectors[c] != null) {
        chosen.add(left == count ? vectors[c] : Gather.values(vectors[c], positions));
      } else if (tested[c]) {
        chosen.add(sources.get(c).some(from, count, positions));
      } else if (isFew()) {
        runs = runs == null ? Gather.runs(selected()) : runs;
        chosen.add(sources.get(c).readRuns(from, count, runs, left));
      } else {
        chosen.add(null);
        whole.add(sources.get(c).read(from, count));
      }
    }
    fill(chosen, whole, count);
    return new Batch(outputColumns, left, chosen);
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
    Batch read = new Batch(new Type.Struct(fields), count, whole);
    Batch kept = selected() == null ? read : Gather.keep(read, selected());
    int next = 0;
    for (int c = 0; c < outputs; c++) {
      if (chosen.get(c) == null) {
        chosen.set(c, kept.vectors().get(next++));
      }
    }
  }
}
