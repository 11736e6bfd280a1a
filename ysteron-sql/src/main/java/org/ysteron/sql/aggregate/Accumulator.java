package org.ysteron.sql.aggregate;

import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/** What an aggregate has found so far, for each group. For one thread. */
public abstract class Accumulator implements AutoCloseable {
  final Running running;

  Accumulator(Running running) {
    this.running = running;
  }

  /**
   * Takes values.
   *
   * @param groups the group of each value
   * @param rows where each value is
   * @param values the values that the function takes; none when the rows only are counted
   */
  public abstract void add(int[] groups, int[] rows, int count, Held[] values);

  /** Makes room for so many groups. */
  public abstract void room(int groups);

  /** The results of groups from one on. */
  public abstract Vector results(int from, int count);

  /** Whether several of them can each find some of the values, to be united afterwards. */
  public static boolean merges(Aggregate call, Step input, Running running) {
    return switch (call.function()) {
      case COUNT, MIN, MAX, ANY_VALUE, EVERY, SOME -> true;
      case SUM, SUM_OR_ZERO, AVG ->
          Held.form(running.typed(call.of().get(0), input.columns()).type()) != Held.Form.DOUBLES;
      default -> false;
    };
  }

  /**
   * Takes what another of the same function has found; see {@link #merges}.
   *
   * @param groups for each of its groups from one on, the group here
   */
  public void merge(Accumulator other, int[] groups, int from, int count) {
    throw new IllegalStateException("what was found cannot be united");
  }

  /** Whether values can be taken back; asked before any is taken. */
  public boolean takesBack() {
    return false;
  }

  /** Takes values back that were taken before; see {@link #takesBack}. */
  public void takeBack(int[] groups, int[] rows, int count, Held[] values) {
    throw new IllegalStateException("values cannot be taken back");
  }

  /** Removes its temporary files, of which most have none. */
  @Override
  public void close() {}

  /** Whether values can be added after results were told. */
  public boolean goesOn() {
    return true;
  }

  /** What finds an aggregate of values of some types. */
  public static Accumulator of(Aggregate call, List<Type> types, Running running) {
    Type type = types.isEmpty() ? call.type() : types.get(0);
    return switch (call.function()) {
      case COUNT -> new Count(running);
      case SUM, SUM_OR_ZERO, AVG ->
          Held.form(type) == Held.Form.DOUBLES
              ? new DoubleSums(call, running)
              : new ExactSums(call, type, running);
      case MIN, MAX, ANY_VALUE, ONLY_VALUE -> Extremes.of(call, type, running);
      case EVERY, SOME -> new Truths(call, running);
      case VAR_POP,
          VAR_SAMP,
          STDDEV_POP,
          STDDEV_SAMP,
          COVAR_POP,
          COVAR_SAMP,
          REGR_COUNT,
          REGR_SXX,
          REGR_SYY ->
          new Moments(call, running);
      case LISTAGG, PERCENTILE_CONT, PERCENTILE_DISC -> new Collected(call, types, running);
      case GROUPING -> throw new IllegalArgumentException("told by the grouping set");
    };
  }

  /** The next length of arrays that must have a least one. */
  public static int longer(int length, int least) {
    return Math.max(least, (int) Math.min(Integer.MAX_VALUE - 8L, 2L * length));
  }

  /** COUNT. */
  private static final class Count extends Accumulator {
    private long[] counts = {};

    Count(Running running) {
      super(running);
    }

    @Override
    public void room(int groups) {
      if (groups > counts.length) {
        int more = longer(counts.length, groups);
        running.take(8L * (more - counts.length));
        counts = java.util.Arrays.copyOf(counts, more);
      }
    }

    @Override
    public void add(int[] groups, int[] rows, int count, Held[] values) {
      Held value = values.length == 0 ? null : values[0];
      if (value == null || value.nulls() == null) {
        for (int i = 0; i < count; i++) {
          counts[groups[i]]++;
        }
        return;
      }
      for (int i = 0; i < count; i++) {
        counts[groups[i]] += value.isNull(rows[i]) ? 0 : 1;
      }
    }

    @Override
    public boolean takesBack() {
      return true;
    }

    @Override
    public void takeBack(int[] groups, int[] rows, int count, Held[] values) {
      for (int i = 0; i < count; i++) {
        counts[groups[i]] -= values.length > 0 && values[0].isNull(rows[i]) ? 0 : 1;
      }
    }

    @Override
    public void merge(Accumulator other, int[] groups, int from, int count) {
      for (int i = 0; i < count; i++) {
        counts[groups[i]] += ((Count) other).counts[from + i];
      }
    }

    @Override
    public Vector results(int from, int count) {
      return new Vector.OfLong(
          Types.BIGINT, count, java.util.Arrays.copyOfRange(counts, from, from + count), null);
    }
  }
}
