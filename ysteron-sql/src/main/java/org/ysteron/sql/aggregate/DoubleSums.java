package org.ysteron.sql.aggregate;

import java.util.Arrays;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;

/** SUM and AVG of approximate numbers. For one thread. */
final class DoubleSums extends Accumulator {
  private final Aggregate.Function function;
  private double[] sums = {};
  private long[] counts = {};

  DoubleSums(Aggregate call, Running running) {
    super(running);
    this.function = call.function();
  }

  @Override
  public void room(int groups) {
    if (groups > sums.length) {
      int more = longer(sums.length, groups);
      running.take(16L * (more - sums.length));
      sums = Arrays.copyOf(sums, more);
      counts = Arrays.copyOf(counts, more);
    }
  }

  @Override
  public void add(int[] groups, int[] rows, int count, Held[] values) {
    Held value = values[0];
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (!value.isNull(row)) {
        sums[groups[i]] += value.doubles()[row];
        counts[groups[i]]++;
      }
    }
  }

  @Override
  public Vector results(int from, int count) {
    boolean average = function == Aggregate.Function.AVG;
    double[] values = new double[count];
    for (int i = 0; i < count; i++) {
      values[i] = average ? sums[from + i] / counts[from + i] : sums[from + i];
    }
    boolean isNullable = function != Aggregate.Function.SUM_OR_ZERO;
    long[] nulls = Made.nullBits(count, i -> isNullable && counts[from + i] == 0);
    return new Vector.OfDouble(Types.DOUBLE, count, values, nulls);
  }
}
