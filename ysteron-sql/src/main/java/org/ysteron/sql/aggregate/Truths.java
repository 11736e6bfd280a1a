package org.ysteron.sql.aggregate;

import java.util.Arrays;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;

/** EVERY and SOME: whether all, or some, of the truth values are true. For one thread. */
final class Truths extends Accumulator {
  private final boolean every;
  private boolean[] there = {};
  private boolean[] found = {};

  Truths(Aggregate call, Running running) {
    super(running);
    this.every = call.function() == Aggregate.Function.EVERY;
  }

  @Override
  public void room(int groups) {
    if (groups > there.length) {
      int more = longer(there.length, groups);
      running.take(2L * (more - there.length));
      there = Arrays.copyOf(there, more);
      found = Arrays.copyOf(found, more);
    }
  }

  @Override
  public void add(int[] groups, int[] rows, int count, Held[] values) {
    Held value = values[0];
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (!value.isNull(row)) {
        boolean decides = (value.longs()[row] != 0) != every;
        there[groups[i]] = true;
        found[groups[i]] |= decides;
      }
    }
  }

  @Override
  public void merge(Accumulator other, int[] groups, int from, int count) {
    Truths truths = (Truths) other;
    for (int i = 0; i < count; i++) {
      there[groups[i]] |= truths.there[from + i];
      found[groups[i]] |= truths.found[from + i];
    }
  }

  @Override
  public Vector results(int from, int count) {
    boolean[] values = new boolean[count];
    for (int i = 0; i < count; i++) {
      values[i] = found[from + i] != every;
    }
    long[] nulls = Made.nullBits(count, i -> !there[from + i]);
    return new Vector.OfBoolean(Types.BOOLEAN, count, values, nulls);
  }
}
