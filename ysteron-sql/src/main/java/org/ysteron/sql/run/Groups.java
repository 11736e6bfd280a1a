package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Expression;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;

/** The groups of one grouping set, and what their step.aggregates() have found. For one thread. */
final class Groups implements AutoCloseable {
  private static final int BATCH = 8192;

  private final AggregateStep step;
  private final List<Integer> set;
  private final boolean spills;
  private Keys found;
  private int count;
  private final List<GroupedValue> computed = new ArrayList<>();
  private final Running running;
  private Spill spill;
  private int[] numbers = {};
  private int[] parts = {};

  /** {@code spills}: whether rows of new groups go to files when memory is short. */
  Groups(AggregateStep step, List<Integer> set, boolean spills, Running whole) {
    this.step = step;
    this.set = set;
    this.spills = spills;
    this.running = whole.keeping("groups");
    List<Type> types = set.stream().map(key -> step.columns().columns().get(key).type()).toList();
    this.found = new Keys(types, running);
    found.of(set.stream().map(step.keys()::get).toList(), step.input().columns(), running);
    for (Aggregate aggregate : step.aggregates()) {
      if (aggregate.function() != Aggregate.Function.GROUPING) {
        computed.add(new GroupedValue(aggregate, step.input().columns(), spills, running));
      }
    }
  }

  int count() {
    return count;
  }

  List<Integer> set() {
    return set;
  }

  /** The rows of other groups, by the parts of their keys, when memory was short; else null. */
  Spill spill() {
    return spill;
  }

  /** Whether memory is short, so that other groups should wait. */
  boolean isTight() {
    return running.isTight(running.own());
  }

  /** Takes what others have found of other rows; no rows can be added afterwards. */
  void merge(Groups others) {
    Schema columns = step.columns();
    found.of(Keys.columns(columns, set), columns, running);
    int[] into = new int[BATCH];
    for (int from = 0; from < others.count; from += BATCH) {
      running.check();
      int some = Math.min(BATCH, others.count - from);
      Batch keys = others.batch(from, some);
      found.find(new SelectedBatch(keys, null, some), into, true, true);
      for (int a = 0; a < computed.size(); a++) {
        computed.get(a).merge(others.computed.get(a), into, from, some, found.count());
      }
    }
    count = set.isEmpty() ? 1 : found.count();
  }

  void add(SelectedBatch rows) {
    int count = rows.count();
    numbers = numbers.length < count ? new int[count] : numbers;
    found.find(rows, numbers, spill == null, true);
    SelectedBatch here = spill == null ? rows : withGroup(rows);
    for (GroupedValue one : computed) {
      one.add(here, numbers, found.count());
    }
    if (spill == null && spills && !set.isEmpty() && running.isTight(running.own())) {
      spill = new Spill(step.input().columns(), Spill.PARTS, running);
    }
  }

  /** The rows whose groups are in memory; the others go to files, by their keys. */
  private SelectedBatch withGroup(SelectedBatch rows) {
    int[] at = Selected.rows(rows);
    int[] here = new int[rows.count()];
    int[] others = new int[rows.count()];
    int known = 0;
    int away = 0;
    for (int i = 0; i < rows.count(); i++) {
      if (numbers[i] < 0) {
        others[away++] = at[i];
      } else {
        here[known] = at[i];
        numbers[known++] = numbers[i];
      }
    }
    if (away > 0) {
      SelectedBatch gone = new SelectedBatch(rows.batch(), others, away);
      parts = parts.length < away ? new int[rows.count()] : parts;
      found.parts(gone, parts, Spill.PARTS, running.depth());
      spill.add(gone, parts);
    }
    return new SelectedBatch(rows.batch(), here, known);
  }

  void end() {
    count = set.isEmpty() ? 1 : found.count();
    computed.forEach(GroupedValue::end);
    if (spill != null) {
      spill.end();
    }
  }

  /** Lets the groups go, when all of them were told. */
  void release() {
    found = null;
    computed.forEach(GroupedValue::close);
    computed.clear();
    running.release();
  }

  @Override
  public void close() {
    release();
    if (spill != null) {
      spill.close();
    }
  }

  Batch batch(int from, int count) {
    List<Vector> vectors = new ArrayList<>();
    for (int k = 0; k < step.keys().size(); k++) {
      int at = set.indexOf(k);
      vectors.add(
          at < 0
              ? Made.nulls(step.columns().columns().get(k).type(), count)
              : found.part(at, from, count));
    }
    int next = 0;
    for (int a = 0; a < step.aggregates().size(); a++) {
      Aggregate aggregate = step.aggregates().get(a);
      if (aggregate.function() == Aggregate.Function.GROUPING) {
        vectors.add(grouping(aggregate, count));
      } else {
        vectors.add(computed.get(next++).results(from, count));
      }
    }
    return new Batch(step.columns().struct(), count, vectors);
  }

  private Vector grouping(Aggregate aggregate, int count) {
    long bits = 0;
    for (Expression key : aggregate.of()) {
      bits = 2 * bits + (set.stream().anyMatch(k -> step.keys().get(k).equals(key)) ? 0 : 1);
    }
    long[] values = new long[count];
    Arrays.fill(values, bits);
    return Made.vector(aggregate.type(), count, values, null, null);
  }
}
