package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.KeyTable;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;

/**
 * Groups and their aggregates, by hashing. Without keys there is one group, of no rows too.
 *
 * @param keys what rows are grouped by
 * @param sets the grouping sets, as numbers of keys
 * @param columns the keys, then the aggregates
 */
public record AggregateStep(
    Step input,
    List<Expression> keys,
    List<List<Integer>> sets,
    List<Aggregate> aggregates,
    Schema columns)
    implements Step {
  private static final int BATCH = 8192;

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Grouping(running);
  }

  private final class Grouping implements Source<SelectedBatch> {
    private final Running running;
    private final List<Groups> groups = new ArrayList<>();
    private Source<SelectedBatch> parted;
    private int set;
    private int part;
    private int next;

    Grouping(Running running) {
      this.running = running;
    }

    @Override
    public Optional<SelectedBatch> next() {
      if (groups.isEmpty()) {
        read();
      }
      while (set < groups.size()) {
        int left = groups.get(set).count() - next;
        if (left > 0) {
          int count = Math.min(BATCH, left);
          Batch batch = groups.get(set).batch(next, count);
          next += count;
          return Optional.of(new SelectedBatch(batch, null, count));
        }
        Optional<SelectedBatch> more = parted();
        if (more.isPresent()) {
          return more;
        }
        set++;
        next = 0;
        part = 0;
      }
      close();
      return Optional.empty();
    }

    /** Groups of rows that had to wait in files, part after part. */
    private Optional<SelectedBatch> parted() {
      Groups of = groups.get(set);
      if (of.spill == null) {
        return Optional.empty();
      }
      of.release();
      while (true) {
        if (parted == null) {
          if (part == Spill.PARTS) {
            return Optional.empty();
          }
          Step rows = of.spill.part(part++);
          parted =
              new AggregateStep(rows, keys, List.of(of.set), aggregates, columns)
                  .open(running.deeper());
        }
        Optional<SelectedBatch> batch = parted.next();
        if (batch.isPresent()) {
          return batch;
        }
        parted.close();
        parted = null;
      }
    }

    private void read() {
      for (List<Integer> of : sets) {
        groups.add(new Groups(of, running));
      }
      input.open(running).each(batch -> groups.forEach(one -> one.add(batch)));
      groups.forEach(Groups::end);
    }

    @Override
    public void close() {
      if (parted != null) {
        parted.close();
      }
      groups.forEach(Groups::close);
    }
  }

  /** The groups of one grouping set. */
  private final class Groups {
    private final List<Integer> set;
    private Keys found;
    private int count;
    private final List<Computed> computed = new ArrayList<>();
    private final Running running;
    private Spill spill;
    private int[] numbers = {};
    private int[] parts = {};

    Groups(List<Integer> set, Running whole) {
      this.set = set;
      this.running = whole.keeping("groups");
      List<Type> types = set.stream().map(key -> columns.columns().get(key).type()).toList();
      this.found = new Keys(types, running);
      found.of(set.stream().map(keys::get).toList(), input.columns(), running);
      for (Aggregate aggregate : aggregates) {
        if (aggregate.function() != Aggregate.Function.GROUPING) {
          computed.add(new Computed(aggregate, running));
        }
      }
    }

    int count() {
      return count;
    }

    void add(SelectedBatch rows) {
      int count = rows.count();
      numbers = numbers.length < count ? new int[count] : numbers;
      found.find(rows, numbers, spill == null, true);
      SelectedBatch here = spill == null ? rows : withGroup(rows);
      for (Computed one : computed) {
        one.add(here, numbers, found.count());
      }
      if (spill == null && !set.isEmpty() && running.isTight(running.own())) {
        spill = new Spill(input.columns(), Spill.PARTS, running);
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
      if (spill != null) {
        spill.end();
      }
    }

    /** Lets the groups go, when all of them were told. */
    void release() {
      found = null;
      computed.clear();
      running.release();
    }

    void close() {
      release();
      if (spill != null) {
        spill.close();
      }
    }

    Batch batch(int from, int count) {
      List<Vector> vectors = new ArrayList<>();
      for (int k = 0; k < keys.size(); k++) {
        int at = set.indexOf(k);
        vectors.add(
            at < 0
                ? Made.nulls(columns.columns().get(k).type(), count)
                : found.part(at, from, count));
      }
      int next = 0;
      for (int a = 0; a < aggregates.size(); a++) {
        Aggregate aggregate = aggregates.get(a);
        if (aggregate.function() == Aggregate.Function.GROUPING) {
          vectors.add(grouping(aggregate, count));
        } else {
          vectors.add(computed.get(next++).results(from, count));
        }
      }
      return new Batch(columns.struct(), count, vectors);
    }

    private Vector grouping(Aggregate aggregate, int count) {
      long bits = 0;
      for (Expression key : aggregate.of()) {
        bits = 2 * bits + (set.stream().anyMatch(k -> keys.get(k).equals(key)) ? 0 : 1);
      }
      long[] values = new long[count];
      Arrays.fill(values, bits);
      return Made.vector(aggregate.type(), count, values, null, null);
    }
  }

  /** One aggregate of the groups of a set. */
  private final class Computed {
    private final Optional<Selecting> where;
    private final List<Computation> values;
    private final Accumulator found;
    private final Optional<Keys> different;
    private final KeyTable pairs;
    private int[] rows = {};
    private int[] groups = {};
    private int[] numbered = {};

    Computed(Aggregate aggregate, Running running) {
      Schema from = input.columns();
      this.where = aggregate.where().map(condition -> running.selecting(condition, from));
      this.values = aggregate.taken().stream().map(of -> running.computation(of, from)).toList();
      List<Type> types = values.stream().map(Computation::type).toList();
      this.found = Accumulator.of(aggregate, types, running);
      this.different =
          aggregate.isDistinct()
              ? Optional.of(new Keys(types(aggregate.of(), running), running))
              : Optional.empty();
      different.ifPresent(keys -> keys.of(aggregate.of(), from, running));
      this.pairs = different.isPresent() ? new KeyTable(2, running) : null;
    }

    private List<Type> types(List<Expression> of, Running running) {
      return of.stream().map(one -> running.typed(one, input.columns()).type()).toList();
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

    Vector results(int from, int count) {
      found.room(from + count);
      return found.results(from, count);
    }
  }
}
