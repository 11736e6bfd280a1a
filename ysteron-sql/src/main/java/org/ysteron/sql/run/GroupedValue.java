package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.KeyTable;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;

/** One aggregate of the groups of a set: which rows count, and which values. For one thread. */
final class GroupedValue {
  private final Optional<Selecting> where;
  private final List<Computation> values;
  private final Accumulator found;
  private final Optional<Keys> different;
  private final KeyTable pairs;
  private int[] rows = {};
  private int[] groups = {};
  private int[] numbered = {};

  GroupedValue(Aggregate aggregate, Schema from, Running running) {
    this.where = aggregate.where().map(condition -> running.selecting(condition, from));
    this.values = aggregate.taken().stream().map(of -> running.computation(of, from)).toList();
    List<Type> types = values.stream().map(Computation::type).toList();
    this.found = Accumulator.of(aggregate, types, running);
    this.different =
        aggregate.isDistinct()
            ? Optional.of(new Keys(types(aggregate.of(), from, running), running))
            : Optional.empty();
    different.ifPresent(keys -> keys.of(aggregate.of(), from, running));
    this.pairs = different.isPresent() ? new KeyTable(2, running) : null;
  }

  private static List<Type> types(List<Expression> of, Schema from, Running running) {
    return of.stream().map(one -> running.typed(one, from).type()).toList();
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
      left = firsts(left, of);
      of = groups;
    }
    Held[] held = new Held[values.size()];
    for (int v = 0; v < held.length; v++) {
      held[v] = values.get(v).held(left.batch(), left.rows(), left.count());
    }
    found.add(of, Selected.rows(left), left.count(), held);
  }

  private void room(SelectedBatch batch) {
    if (rows.length < batch.batch().size()) {
      rows = new int[batch.batch().size()];
      groups = new int[rows.length];
      numbered = new int[rows.length];
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

  /** The rows whose value is the first of its kind in its group. */
  private SelectedBatch firsts(SelectedBatch batch, int[] numbers) {
    room(batch);
    int count = batch.count();
    Keys keys = different.orElseThrow();
    keys.find(batch, numbered, true, true);
    long[][] pair = new long[2][count];
    for (int i = 0; i < count; i++) {
      pair[0][i] = numbers[i];
      pair[1][i] = numbered[i];
    }
    int known = pairs.count();
    pairs.find(pair, count, numbered, true);
    int[] all = Selected.rows(batch);
    int left = 0;
    for (int i = 0; i < count; i++) {
      if (numbered[i] == known) {
        known++;
        rows[left] = all[i];
        groups[left++] = numbers[i];
      }
    }
    return new SelectedBatch(batch.batch(), rows, left);
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
