package org.ysteron.sql.join;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.run.Renaming;

/**
 * Tells of left rows without a partner whether a null may be one: whether for some right row the
 * condition is unknown, and not false. For one thread.
 */
final class MarkNulls {
  private final JoinStep join;
  private final Rights rights;
  private final Running running;
  private final List<Computation> keys = new ArrayList<>();
  private @Nullable Selecting unknown;

  /**
   * The right rows of a join.
   *
   * @param rows reads them all
   */
  record Rights(boolean areSome, boolean haveNullKeys, Supplier<Source<SelectedBatch>> rows) {}

  MarkNulls(JoinStep join, Rights rights, Running running) {
    this.join = join;
    this.rights = rights;
    this.running = running;
    join.leftKeys().forEach(key -> keys.add(running.computation(key, join.left().columns())));
  }

  /** The left rows of which it is unknown, as bits; null when there are none. */
  long @Nullable [] unknown(Batch left, boolean[] matched) {
    if (!rights.areSome() || join.nullsMeet()) {
      return null;
    }
    List<Held> held = keys.stream().map(key -> key.held(left, null, left.size())).toList();
    boolean needsNull = !rights.haveNullKeys() && join.rest().isEmpty();
    boolean keyTells = keys.size() == 1 && join.rest().isEmpty();
    long[] bits = new long[(left.size() + 63) >> 6];
    List<Integer> open = new ArrayList<>();
    boolean some = false;
    for (int row = 0; row < left.size(); row++) {
      int at = row;
      if (matched[row] || (needsNull && held.stream().noneMatch(key -> key.isNull(at)))) {
        continue;
      }
      if (keyTells) {
        bits[row >> 6] |= 1L << row;
        some = true;
      } else {
        open.add(row);
      }
    }
    return compare(left, open, bits) || some ? bits : null;
  }

  /** Compares the left rows of which nothing is known with all right rows. */
  private boolean compare(Batch left, List<Integer> open, long[] bits) {
    if (open.isEmpty()) {
      return false;
    }
    boolean some = false;
    try (Source<SelectedBatch> all = rights.rows().get()) {
      Optional<SelectedBatch> one = all.next();
      while (one.isPresent() && !open.isEmpty()) {
        Batch right = Selected.dense(one.get());
        some |= open.removeIf(row -> isUnknown(left, row, right, bits));
        one = all.next();
      }
    }
    return some;
  }

  private boolean isUnknown(Batch left, int row, Batch right, long[] bits) {
    running.check();
    if (unknown == null) {
      unknown = running.selecting(new Condition.IsNull(condition()), join.both());
    }
    int[] same = new int[right.size()];
    Arrays.fill(same, row);
    List<Vector> vectors = new ArrayList<>(Gather.rows(left, same).vectors());
    vectors.addAll(right.vectors());
    Batch pairs = new Batch(join.both().struct(), right.size(), vectors);
    int count = right.size();
    boolean is = unknown.select(pairs, Selected.upTo(count), count, new int[count]) > 0;
    bits[row >> 6] |= is ? 1L << row : 0;
    return is;
  }

  /** The whole condition on pairs. */
  private Condition condition() {
    List<Condition> parts = new ArrayList<>();
    int lefts = join.left().columns().columns().size();
    for (int k = 0; k < join.leftKeys().size(); k++) {
      parts.add(
          new Condition.Compare(
              Renaming.of(join.leftKeys().get(k), join.left().columns(), join.both(), 0),
              Condition.Comparison.EQUAL,
              Renaming.of(join.rightKeys().get(k), join.right().columns(), join.both(), lefts)));
    }
    join.rest().ifPresent(parts::add);
    return new Condition.And(parts);
  }
}
