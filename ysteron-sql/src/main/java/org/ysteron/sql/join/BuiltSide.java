package org.ysteron.sql.join;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.Slices;
import org.ysteron.sql.run.ValuesStep;

/** The rows of a join that are kept in memory, found by their keys. One thread reads them. */
final class BuiltSide {
  private static final int SLICE = 8192;

  private Keys keys;
  private final Running running;
  private final List<Type> types;
  private final Kept kept;
  private final Schema columns;
  private final boolean keeps;
  private int[] first = {};
  private int[] next = {};
  private int rows;
  private Batch all;
  private boolean hasNullKeys;
  private Spill spill;

  BuiltSide(JoinStep join, Running whole) {
    Running running = whole.keeping("a join");
    this.running = running;
    this.types =
        join.rightKeys().stream()
            .map(key -> running.typed(key, join.right().columns()).type())
            .toList();
    this.keys = new Keys(types, running);
    keys.of(join.rightKeys(), join.right().columns(), running);
    this.columns = join.right().columns();
    this.keeps = join.keepsRows();
    this.kept = new Kept(join.right().columns(), running, "a join");
    try {
      read(join, whole, types);
    } catch (RuntimeException e) {
      close();
      throw e;
    }
  }

  /** What finds right rows by the keys of left ones, for one thread. */
  Keys finding(JoinStep join) {
    Keys finding = keys.reading();
    finding.of(join.leftKeys(), join.left().columns(), running);
    return finding;
  }

  private void read(JoinStep join, Running whole, List<Type> types) {
    int[] numbers = {};
    try (Source<SelectedBatch> rights = join.right().open(running)) {
      for (Optional<SelectedBatch> one = rights.next(); one.isPresent(); one = rights.next()) {
        SelectedBatch batch = one.get();
        numbers = numbers.length < batch.count() ? new int[batch.count()] : numbers;
        if (spill != null) {
          putAway(batch, numbers);
          hasNullKeys |= join.kind() == JoinStep.Kind.MARK && keys.haveNulls(batch);
          continue;
        }
        keys.find(batch, numbers, true, join.nullsMeet());
        link(numbers, batch.count());
        if (keeps) {
          kept.add(batch);
        }
        if (!join.leftKeys().isEmpty() && running.isTight(running.own() + 2 * kept.bytes())) {
          spill = new Spill(join.right().columns(), Spill.PARTS, whole);
          putAllAway(join, types);
        }
      }
    }
    if (spill == null) {
      kept.addNulls();
      all = kept.all();
    } else {
      spill.end();
    }
  }

  /** Puts the rows that were kept away, or the keys where those tell enough. */
  private void putAllAway(JoinStep join, List<Type> types) {
    List<Batch> held = new ArrayList<>();
    if (keeps) {
      held.add(kept.all());
    }
    for (int from = 0; from < keys.count() && !keeps; from += SLICE) {
      int count = Math.min(SLICE, keys.count() - from);
      List<Vector> parts = new ArrayList<>();
      for (int part = 0; part < types.size(); part++) {
        parts.add(keys.part(part, from, count));
      }
      held.add(new Batch(join.right().columns().struct(), count, parts));
    }
    release();
    keys = new Keys(types, running);
    keys.of(join.rightKeys(), join.right().columns(), running);
    first = new int[0];
    next = new int[0];
    for (Batch some : held) {
      putAway(new SelectedBatch(some, null, some.size()), new int[some.size()]);
    }
  }

  private void putAway(SelectedBatch batch, int[] parts) {
    keys.parts(batch, parts, Spill.PARTS, running.depth());
    spill.add(batch, parts);
  }

  /** The left side, of which rows are left out that have no partner, as far as scans can tell. */
  Step restricted(JoinStep join) {
    if (spill != null || !running.pushes()) {
      return join.left();
    }
    boolean none = rows == 0 && join.kind().needsPartner();
    return running.standingIn(
        none
            ? new ValuesStep(List.of(), join.left().columns())
            : KeyFilters.restricted(join, keys, types),
        join.left());
  }

  /** The right rows by the parts of their keys, when they did not fit in memory; else null. */
  Spill spill() {
    return spill;
  }

  /** Puts all left rows away by the parts of their keys. */
  Spill spillLeft(JoinStep join, Keys finding, Source<SelectedBatch> rows) {
    Spill left = new Spill(join.left().columns(), Spill.PARTS, running);
    int[][] parts = {{}};
    try {
      rows.each(
          batch -> {
            parts[0] = parts[0].length < batch.count() ? new int[batch.count()] : parts[0];
            finding.parts(batch, parts[0], Spill.PARTS, running.depth());
            left.add(batch, parts[0]);
          });
      left.end();
      return left;
    } catch (RuntimeException e) {
      left.close();
      throw e;
    }
  }

  private void link(int[] numbers, int count) {
    if (!keeps) {
      rows = Math.addExact(rows, count);
      for (int i = 0; i < count && !hasNullKeys; i++) {
        hasNullKeys = numbers[i] < 0;
      }
      return;
    }
    if (rows + count > next.length) {
      int more = Accumulator.longer(next.length, rows + count);
      running.take(4L * (more - next.length));
      next = Arrays.copyOf(next, more);
    }
    if (keys.count() > first.length) {
      int known = first.length;
      int more = Accumulator.longer(known, keys.count());
      running.take(4L * (more - known));
      first = Arrays.copyOf(first, more);
      Arrays.fill(first, known, more, -1);
    }
    for (int i = 0; i < count; i++) {
      int number = numbers[i];
      int row = rows + i;
      next[row] = number < 0 ? -1 : first[number];
      if (number >= 0) {
        first[number] = row;
      } else {
        hasNullKeys = true;
      }
    }
    rows += count;
  }

  /** How many rows there are; the row of this number has nulls only. */
  int rows() {
    return rows;
  }

  /** All right rows, as those need them that tell nulls of a mark. */
  MarkNulls.Rights rights() {
    if (spill != null) {
      return new MarkNulls.Rights(
          true, hasNullKeys, () -> Chained.of(Spill.PARTS, part -> spill.part(part).open(running)));
    }
    return new MarkNulls.Rights(
        rows > 0, hasNullKeys, () -> new Slices(this::withoutNulls, columns));
  }

  private Batch withoutNulls() {
    return Gather.rows(all, Selected.between(0, rows));
  }

  /** The rows, and a row of nulls behind them. */
  Batch all() {
    return all;
  }

  /** Finds for each left row the first row with its key, or -1. */
  void find(Keys finding, SelectedBatch left, int[] rows, boolean nullsMeet) {
    finding.find(left, rows, false, nullsMeet);
    if (!keeps) {
      return;
    }
    for (int i = 0; i < left.count(); i++) {
      rows[i] = rows[i] < 0 || rows[i] >= first.length ? -1 : first[rows[i]];
    }
  }

  /** Gives the memory back. */
  void release() {
    kept.release();
    running.release();
  }

  void close() {
    release();
    if (spill != null) {
      spill.close();
    }
  }

  /** The next row with the same key, or -1. */
  int next(int row) {
    return next[row];
  }
}
