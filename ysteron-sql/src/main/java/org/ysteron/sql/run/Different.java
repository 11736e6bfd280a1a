package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Consumer;
import java.util.stream.IntStream;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.sql.keep.KeyTable;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;

/**
 * Which rows bring a value that their group has not had. When memory is short, rows with values
 * that are not known wait in files, and are told of at the end. For one thread.
 */
final class Different implements AutoCloseable {
  private final List<Computation> values = new ArrayList<>();
  private final Running running;
  private final Running all;
  private final boolean spills;
  private final Schema waiting;
  private Keys keys;
  private KeyTable pairs;
  private Spill spill;
  private int[] numbered = {};

  /**
   * Begins.
   *
   * @param of the values
   * @param from the columns of the rows
   */
  Different(List<Expression> of, Schema from, boolean spills, Running all) {
    this.all = all;
    this.running = all.keeping("different values");
    this.spills = spills;
    of.forEach(one -> values.add(running.computation(one, from)));
    List<Type> types = values.stream().map(Computation::type).toList();
    this.keys = new Keys(types, running);
    keys.of(of, from, running);
    this.pairs = new KeyTable(2, running);
    List<Type> columns = new ArrayList<>(List.of(Types.INTEGER));
    columns.addAll(types);
    this.waiting = Made.schema(columns);
  }

  /**
   * Finds the rows whose value is the first of its kind in its group.
   *
   * @param groups the group of each row
   * @param rows gets the positions of those that are
   * @param of gets their groups; it may be {@code groups}
   * @return how many they are
   */
  int firsts(SelectedBatch batch, int[] groups, int[] rows, int[] of) {
    int count = batch.count();
    numbered = numbered.length < count ? new int[count] : numbered;
    keys.find(batch, numbered, spill == null, true);
    long[][] pair = new long[2][count];
    for (int i = 0; i < count; i++) {
      pair[0][i] = groups[i];
      pair[1][i] = numbered[i];
    }
    int known = pairs.count();
    pairs.find(pair, count, numbered, spill == null);
    if (spill != null) {
      putAway(batch, groups);
      return 0;
    }
    int[] at = Selected.rows(batch);
    int left = 0;
    for (int i = 0; i < count; i++) {
      if (numbered[i] == known) {
        known++;
        rows[left] = at[i];
        of[left++] = groups[i];
      }
    }
    if (spills && running.isTight(running.own())) {
      spill = new Spill(waiting, 1, all);
    }
    return left;
  }

  /** Puts the rows away whose values are not known. */
  private void putAway(SelectedBatch batch, int[] groups) {
    int[] at = Selected.rows(batch);
    int[] some = new int[batch.count()];
    int[] of = new int[batch.count()];
    int count = 0;
    for (int i = 0; i < batch.count(); i++) {
      if (numbered[i] < 0) {
        some[count] = at[i];
        of[count++] = groups[i];
      }
    }
    if (count == 0) {
      return;
    }
    Batch dense = Selected.dense(new SelectedBatch(batch.batch(), some, count));
    List<Vector> vectors = new ArrayList<>();
    vectors.add(new Vector.OfInt(Types.INTEGER, count, of, null));
    values.forEach(value -> vectors.add(value.values(dense)));
    Batch rows = new Batch(waiting.struct(), count, vectors);
    spill.add(new SelectedBatch(rows, null, count), new int[count]);
  }

  /** The columns of rows that waited: the group, then the values. */
  Schema waiting() {
    return waiting;
  }

  /** Tells of the rows that waited, each different one once; none can be found afterwards. */
  void end(Consumer<SelectedBatch> told) {
    if (spill == null) {
      return;
    }
    keys = null;
    pairs = null;
    running.release();
    spill.end();
    List<Expression> columns = Keys.columns(waiting);
    List<Integer> set = IntStream.range(0, columns.size()).boxed().toList();
    Step each = new AggregateStep(spill.part(0), columns, List.of(set), List.of(), waiting);
    each.open(all).each(told);
    close();
  }

  @Override
  public void close() {
    running.release();
    if (spill != null) {
      spill.close();
      spill = null;
    }
  }
}
