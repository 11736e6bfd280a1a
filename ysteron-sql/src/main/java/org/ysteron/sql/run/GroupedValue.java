package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;

/** One aggregate of the groups of a set: which rows count, and which values. For one thread. */
final class GroupedValue implements AutoCloseable {
  private final Optional<Selecting> where;
  private final List<Computation> values;
  private final Accumulator found;
  private final Optional<Different> different;
  private final Running running;
  private int[] rows = {};
  private int[] groups = {};

  /** {@code spills}: whether values that must be different wait in files when memory is short. */
  GroupedValue(Aggregate aggregate, Schema from, boolean spills, Running running) {
    this.running = running;
    this.where = aggregate.where().map(condition -> running.selecting(condition, from));
    this.values = aggregate.taken().stream().map(of -> running.computation(of, from)).toList();
    List<Type> types = values.stream().map(Computation::type).toList();
    this.found = Accumulator.of(aggregate, types, running);
    this.different =
        aggregate.isDistinct()
            ? Optional.of(new Different(aggregate.of(), from, spills, running))
            : Optional.empty();
  }

  void add(SelectedBatch batch, int[] numbers, int count) {
    found.room(Math.max(1, count));
    SelectedBatch left = batch;
    int[] of = numbers;
    if (where.isPresent()) {
      room(batch);
      int passed = where.get().select(batch.batch(), Selected.rows(batch), batch.count(), rows);
      of = groups(batch, numbers, passed);
      left = new SelectedBatch(batch.batch(), rows, passed);
    }
    if (different.isPresent()) {
      room(batch);
      int firsts = different.get().firsts(left, of, rows, groups);
      left = new SelectedBatch(batch.batch(), rows, firsts);
      of = groups;
    }
    add(left, of, values);
  }

  private void add(SelectedBatch batch, int[] of, List<Computation> values) {
    Held[] held = new Held[values.size()];
    for (int v = 0; v < held.length; v++) {
      held[v] = values.get(v).held(batch.batch(), batch.rows(), batch.count());
    }
    found.add(of, Selected.rows(batch), batch.count(), held);
  }

  /** Takes what had to wait; no rows can be added afterwards. */
  void end() {
    different.ifPresent(
        waited -> {
          Schema columns = waited.waiting();
          List<Computation> all =
              Keys.columns(columns).stream().map(one -> running.computation(one, columns)).toList();
          List<Computation> taken = all.subList(1, 1 + values.size());
          waited.end(
              batch -> {
                Vector.OfInt of = (Vector.OfInt) batch.batch().vectors().get(0);
                add(batch, of.values(), taken);
              });
        });
  }

  @Override
  public void close() {
    found.close();
    different.ifPresent(Different::close);
  }

  private void room(SelectedBatch batch) {
    if (rows.length < batch.batch().size()) {
      rows = new int[batch.batch().size()];
      groups = new int[rows.length];
    }
  }

  /** The groups of the rows that are left, which are some of the batch, in its order. */
  private int[] groups(SelectedBatch batch, int[] numbers, int left) {
    int[] all = Selected.rows(batch);
    int from = 0;
    for (int i = 0; i < left; i++) {
      while (all[from] != rows[i]) {
        from++;
      }
      groups[i] = numbers[from];
    }
    return groups;
  }

  /**
   * Takes what another has found of other rows.
   *
   * @param groups for each of its groups from one on, the group here
   * @param count how many of its groups
   * @param most how many groups there are here
   */
  void merge(GroupedValue other, int[] groups, int from, int count, int most) {
    found.room(Math.max(1, most));
    other.found.room(from + count);
    found.merge(other.found, groups, from, count);
  }

  Vector results(int from, int count) {
    found.room(from + count);
    return found.results(from, count);
  }
}
