package org.ysteron.sql.run;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Running;

/** What an aggregate has found so far, for each group. For one thread. */
abstract class Accumulator {
  final Running running;

  Accumulator(Running running) {
    this.running = running;
  }

  /**
   * Takes values.
   *
   * @param groups the group of each value
   * @param rows where each value is
   * @param value the values; null when the rows only are counted
   */
  abstract void add(int[] groups, int[] rows, int count, Held value);

  /** Makes room for so many groups. */
  abstract void room(int groups);

  /** The results of groups from one on. */
  abstract Vector results(int from, int count);

  /** What finds an aggregate of values of a type. */
  static Accumulator of(Aggregate call, Type type, Running running) {
    return switch (call.function()) {
      case COUNT -> new Count(running);
      case SUM, SUM_OR_ZERO, AVG ->
          Held.form(type) == Held.Form.DOUBLES
              ? new DoubleSums(call, running)
              : new ExactSums(call, type, running);
      case MIN, MAX, ANY_VALUE, ONLY_VALUE -> Extremes.of(call, type, running);
      case GROUPING -> throw new IllegalArgumentException("told by the grouping set");
    };
  }

  /** The next length of arrays that must have a least one. */
  static int longer(int length, int least) {
    return Math.max(least, (int) Math.min(Integer.MAX_VALUE - 8L, 2L * length));
  }

  /** COUNT. */
  private static final class Count extends Accumulator {
    private long[] counts = {};

    Count(Running running) {
      super(running);
    }

    @Override
    void room(int groups) {
      if (groups > counts.length) {
        int more = longer(counts.length, groups);
        running.take(8L * (more - counts.length));
        counts = java.util.Arrays.copyOf(counts, more);
      }
    }

    @Override
    void add(int[] groups, int[] rows, int count, Held value) {
      boolean all = value == null || value.nulls() == null;
      for (int i = 0; i < count; i++) {
        counts[groups[i]] += all || !value.isNull(rows[i]) ? 1 : 0;
      }
    }

    @Override
    Vector results(int from, int count) {
      return new Vector.OfLong(
          Types.BIGINT, count, java.util.Arrays.copyOfRange(counts, from, from + count), null);
    }
  }
}
