package org.ysteron.sql.aggregate;

import java.util.Arrays;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Running;

/**
 * Variances and covariances, one value after the other, without the loss of digits that sums of
 * squares have (B. P. Welford, Note on a method for calculating corrected sums of squares and
 * products, Technometrics 4, 1962). For one thread.
 */
final class Moments extends Accumulator {
  private static final int ARRAYS = 6;

  private final Aggregate call;
  private long[] counts = {};
  private double[] means = {};
  private double[] squares = {};
  private double[] otherMeans = {};
  private double[] otherSquares = {};
  private double[] products = {};

  /** {@code call}: of one approximate number, or of two. */
  Moments(Aggregate call, Running running) {
    super(running);
    this.call = call;
  }

  @Override
  public void room(int groups) {
    if (groups > counts.length) {
      int more = longer(counts.length, groups);
      running.take((long) Long.BYTES * ARRAYS * (more - counts.length));
      counts = Arrays.copyOf(counts, more);
      means = Arrays.copyOf(means, more);
      squares = Arrays.copyOf(squares, more);
      otherMeans = Arrays.copyOf(otherMeans, more);
      otherSquares = Arrays.copyOf(otherSquares, more);
      products = Arrays.copyOf(products, more);
    }
  }

  @Override
  public void add(int[] groups, int[] rows, int count, Held[] values) {
    Held first = values[0];
    Held second = values.length > 1 ? values[1] : first;
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (!first.isNull(row) && !second.isNull(row)) {
        add(groups[i], first.doubles()[row], second.doubles()[row]);
      }
    }
  }

  private void add(int group, double one, double other) {
    long number = ++counts[group];
    double off = one - means[group];
    double otherOff = other - otherMeans[group];
    means[group] += off / number;
    otherMeans[group] += otherOff / number;
    squares[group] += off * (one - means[group]);
    otherSquares[group] += otherOff * (other - otherMeans[group]);
    products[group] += off * (other - otherMeans[group]);
  }

  @Override
  public Vector results(int from, int count) {
    VectorBuilder results = new VectorBuilder(call.type(), Math.max(1, count));
    for (int group = from; group < from + count; group++) {
      results.add(result(group));
    }
    return results.buildLast();
  }

  private Object result(int group) {
    long number = counts[group];
    boolean isSample =
        call.function() == Aggregate.Function.VAR_SAMP
            || call.function() == Aggregate.Function.STDDEV_SAMP
            || call.function() == Aggregate.Function.COVAR_SAMP;
    if (call.function() == Aggregate.Function.REGR_COUNT) {
      return number;
    }
    if (number == 0 || (isSample && number == 1)) {
      return null;
    }
    double divisor = isSample ? number - 1.0 : number;
    return switch (call.function()) {
      case STDDEV_POP, STDDEV_SAMP -> Math.sqrt(squares[group] / divisor);
      case COVAR_POP, COVAR_SAMP -> products[group] / divisor;
      case REGR_SXX -> otherSquares[group];
      case REGR_SYY -> squares[group];
      default -> squares[group] / divisor;
    };
  }
}
