package org.ysteron.sql.aggregate;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.util.Arrays;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;

/** SUM and AVG of exact numbers, in 128 bits. For one thread. */
final class ExactSums extends Accumulator {
  private static final long MIN = Long.MIN_VALUE;

  private final Aggregate call;
  private final int scale;
  private long[] lows = {};
  private long[] highs = {};
  private long[] counts = {};
  private boolean takesBack;

  ExactSums(Aggregate call, Type type, Running running) {
    super(running);
    this.call = call;
    this.scale = Numbers.scale(type);
  }

  @Override
  public void room(int groups) {
    if (groups > lows.length) {
      int more = longer(lows.length, groups);
      running.take(24L * (more - lows.length));
      lows = Arrays.copyOf(lows, more);
      highs = Arrays.copyOf(highs, more);
      counts = Arrays.copyOf(counts, more);
    }
  }

  @Override
  public void add(int[] groups, int[] rows, int count, Held[] values) {
    Held value = values[0];
    if (value.highs() == null) {
      addNarrow(groups, rows, count, value);
    } else {
      addWide(groups, rows, count, value);
    }
  }

  /** Values of 64 bits: the high word changes only where the low one passes its end. */
  private void addNarrow(int[] groups, int[] rows, int count, Held value) {
    long[] from = value.longs();
    boolean all = value.nulls() == null;
    if (all && !takesBack && call.function() != Aggregate.Function.AVG) {
      addAll(groups, rows, count, from);
      return;
    }
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (all || !value.isNull(row)) {
        int group = groups[i];
        long more = from[row];
        long before = lows[group];
        long sum = before + more;
        lows[group] = sum;
        counts[group]++;
        if (more >= 0 ? sum + MIN < before + MIN : sum + MIN > before + MIN) {
          highs[group] += more >= 0 ? 1 : -1;
        }
      }
    }
  }

  /** Values none of which is null, where it only matters whether there are some. */
  private void addAll(int[] groups, int[] rows, int count, long[] from) {
    for (int i = 0; i < count; i++) {
      int group = groups[i];
      long more = from[rows[i]];
      long before = lows[group];
      long sum = before + more;
      lows[group] = sum;
      counts[group] = 1;
      if (more >= 0 ? sum + MIN < before + MIN : sum + MIN > before + MIN) {
        highs[group] += more >= 0 ? 1 : -1;
      }
    }
  }

  private void addWide(int[] groups, int[] rows, int count, Held value) {
    long[] from = value.longs();
    long[] wide = value.highs();
    boolean all = value.nulls() == null;
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (all || !value.isNull(row)) {
        add(groups[i], from[row], wide[row]);
        counts[groups[i]]++;
      }
    }
  }

  @Override
  public boolean takesBack() {
    takesBack = true;
    return true;
  }

  @Override
  public void takeBack(int[] groups, int[] rows, int count, Held[] values) {
    Held value = values[0];
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (!value.isNull(row)) {
        long low = value.longs()[row];
        long high = value.highs() == null ? low >> 63 : value.highs()[row];
        add(groups[i], -low, ~high + (low == 0 ? 1 : 0));
        counts[groups[i]]--;
      }
    }
  }

  @Override
  public void merge(Accumulator other, int[] groups, int from, int count) {
    ExactSums sums = (ExactSums) other;
    for (int i = 0; i < count; i++) {
      int group = groups[i];
      add(group, sums.lows[from + i], sums.highs[from + i]);
      counts[group] += sums.counts[from + i];
    }
  }

  private void add(int group, long low, long high) {
    long sum = lows[group] + low;
    long carry = Long.compareUnsigned(sum, low) < 0 ? 1 : 0;
    lows[group] = sum;
    long before = highs[group];
    long after = before + high + carry;
    if ((before ^ high) >= 0 && (before ^ after) < 0) {
      throw tooLarge();
    }
    highs[group] = after;
  }

  private InvalidInputException tooLarge() {
    return new InvalidInputException(
        "A sum of %s does not fit into %s.".formatted(call.of().get(0), call.type()));
  }

  @Override
  public Vector results(int from, int count) {
    boolean average = call.function() == Aggregate.Function.AVG;
    if (average) {
      return averages(from, count);
    }
    for (int group = from; group < from + count; group++) {
      check(group);
    }
    boolean isNullable = call.function() == Aggregate.Function.SUM;
    long[] nulls = Made.nullBits(count, i -> isNullable && counts[from + i] == 0);
    return Made.vector(
        call.type(),
        count,
        Arrays.copyOfRange(lows, from, from + count),
        Arrays.copyOfRange(highs, from, from + count),
        nulls);
  }

  private void check(int group) {
    boolean isShort = highs[group] == lows[group] >> 63;
    if (!(call.type() instanceof Type.Decimal)) {
      if (!isShort) {
        throw tooLarge();
      }
    } else if (!isShort
        && big(group).abs().toString().length() > ((Type.Decimal) call.type()).precision()) {
      throw tooLarge();
    }
  }

  private BigInteger big(int group) {
    return BigInteger.valueOf(highs[group])
        .shiftLeft(Long.SIZE)
        .add(
            BigInteger.valueOf(lows[group] >>> 1)
                .shiftLeft(1)
                .add(BigInteger.valueOf(lows[group] & 1)));
  }

  private Vector averages(int from, int count) {
    VectorBuilder builder = new VectorBuilder(call.type(), count);
    for (int i = from; i < from + count; i++) {
      builder.add(
          counts[i] == 0
              ? null
              : new BigDecimal(big(i), scale)
                  .divide(
                      BigDecimal.valueOf(counts[i]),
                      Numbers.scale(call.type()),
                      RoundingMode.HALF_UP));
    }
    return builder.buildLast();
  }
}
