package org.ysteron.sql.run;

import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;

/** The rows of a join that are kept in memory, found by their keys. For one thread. */
final class BuiltSide {
  private final Keys keys;
  private final Running running;
  private final Kept kept;
  private int[] first = {};
  private int[] next = {};
  private int rows;
  private Batch all;
  private boolean hasNullKeys;

  BuiltSide(JoinStep join, Running whole) {
    Running running = whole.keeping("a join");
    this.running = running;
    List<Type> types =
        join.rightKeys().stream()
            .map(key -> running.typed(key, join.right().columns()).type())
            .toList();
    this.keys = new Keys(types, running);
    keys.of(join.rightKeys(), join.right().columns(), running);
    this.kept = new Kept(join.right().columns(), running, "a join");
    int[][] numbers = {{}};
    join.right()
        .open(running)
        .each(
            batch -> {
              numbers[0] = numbers[0].length < batch.count() ? new int[batch.count()] : numbers[0];
              keys.find(batch, numbers[0], true, join.nullsMeet());
              link(numbers[0], batch.count());
              if (keepsRows(join)) {
                kept.add(batch);
              }
            });
    kept.addNulls();
    all = kept.all();
    keys.of(join.leftKeys(), join.left().columns(), running);
  }

  /** Whether rows are needed, and not only which keys there are. */
  private static boolean keepsRows(JoinStep join) {
    JoinStep.Kind kind = join.kind();
    boolean keysTell =
        kind.firstDecides()
            && join.rest().isEmpty()
            && (kind != JoinStep.Kind.MARK || join.rightKeys().size() == 1);
    return !keysTell;
  }

  private void link(int[] numbers, int count) {
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

  boolean hasNullKeys() {
    return hasNullKeys;
  }

  /** The rows, and a row of nulls behind them. */
  Batch all() {
    return all;
  }

  /** Finds for each left row the first row with its key, or -1. */
  void find(SelectedBatch left, int[] rows, boolean nullsMeet) {
    keys.find(left, rows, false, nullsMeet);
    for (int i = 0; i < left.count(); i++) {
      rows[i] = rows[i] < 0 || rows[i] >= first.length ? -1 : first[rows[i]];
    }
  }

  /** Gives the memory back. */
  void release() {
    kept.release();
    running.release();
  }

  /** The next row with the same key, or -1. */
  int next(int row) {
    return next[row];
  }
}
