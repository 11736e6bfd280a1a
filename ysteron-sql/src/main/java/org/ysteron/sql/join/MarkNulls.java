package org.ysteron.sql.join;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.run.Renaming;

/**
 * Tells of left rows without a partner whether a null may be one: whether for some right row the
 * condition is unknown, and not false. For one thread.
 */
final class MarkNulls {
  private static final int BATCH = 8192;

  private final JoinStep join;
  private final BuiltSide built;
  private final Running running;
  private Selecting unknown;
  private List<Computation> keys;

  MarkNulls(JoinStep join, BuiltSide built, Running running) {
    this.join = join;
    this.built = built;
    this.running = running;
  }

  boolean isUnknown(Batch left, int row) {
    if (built.rows() == 0 || join.nullsMeet()) {
      return false;
    }
    boolean nullHere = hasNull(left, row);
    if (!nullHere && !built.hasNullKeys() && join.rest().isEmpty()) {
      return false;
    }
    if (join.leftKeys().size() == 1 && join.rest().isEmpty()) {
      return true;
    }
    return meetsUnknown(left, row);
  }

  private boolean hasNull(Batch left, int row) {
    if (keys == null) {
      keys = new ArrayList<>();
      for (Expression key : join.leftKeys()) {
        keys.add(running.computation(key, join.left().columns()));
      }
    }
    int[] one = {row};
    return keys.stream().anyMatch(key -> key.held(left, one, 1).isNull(row));
  }

  private boolean meetsUnknown(Batch left, int row) {
    if (unknown == null) {
      unknown = running.selecting(new Condition.IsNull(condition()), join.both());
    }
    int[] kept = new int[BATCH];
    for (int from = 0; from < built.rows(); from += BATCH) {
      int count = Math.min(BATCH, built.rows() - from);
      int[] same = new int[count];
      int[] rights = new int[count];
      Arrays.fill(same, row);
      for (int i = 0; i < count; i++) {
        rights[i] = from + i;
      }
      List<Vector> vectors = new ArrayList<>(Gather.rows(left, same).vectors());
      vectors.addAll(Gather.rows(built.all(), rights).vectors());
      Batch pairs = new Batch(join.both().struct(), count, vectors);
      if (unknown.select(pairs, Selected.upTo(count), count, kept) > 0) {
        return true;
      }
    }
    return false;
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
