package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Vector;

/** Within one of some intervals of whole numbers, sorted and disjoint. */
final class NumberIntervals extends BoundTest.OfColumn {
  private final long[] lows;
  private final long[] highs;

  NumberIntervals(List<Field> along, long[] lows, long[] highs) {
    super(along);
    this.lows = lows;
    this.highs = highs;
  }

  /** Parts of AND, those of one column joined to the intervals that all of them have. */
  static List<BoundTest> joined(List<BoundTest> parts) {
    Map<Integer, Integer> places = new HashMap<>();
    List<BoundTest> joined = new ArrayList<>();
    for (BoundTest part : parts) {
      Integer at = part instanceof NumberIntervals own ? places.get(own.field().id()) : null;
      if (at != null) {
        joined.set(at, ((NumberIntervals) joined.get(at)).and((NumberIntervals) part));
        continue;
      }
      if (part instanceof NumberIntervals own) {
        places.put(own.field().id(), joined.size());
      }
      joined.add(part);
    }
    return joined;
  }

  private NumberIntervals and(NumberIntervals other) {
    List<long[]> both = new ArrayList<>();
    int mine = 0;
    int theirs = 0;
    while (mine < lows.length && theirs < other.lows.length) {
      long low = Math.max(lows[mine], other.lows[theirs]);
      long high = Math.min(highs[mine], other.highs[theirs]);
      if (low <= high) {
        both.add(new long[] {low, high});
      }
      if (highs[mine] < other.highs[theirs]) {
        mine++;
      } else {
        theirs++;
      }
    }
    return new NumberIntervals(
        along(),
        both.stream().mapToLong(interval -> interval[0]).toArray(),
        both.stream().mapToLong(interval -> interval[1]).toArray());
  }

  @Override
  public boolean isNeverTrue() {
    return lows.length == 0;
  }

  @Override
  int intervals() {
    return lows.length;
  }

  @Override
  Optional<Grouping.Span> parts(int interval, Grouping grouping) {
    return grouping.parts(lows[interval], highs[interval]);
  }

  @Override
  Verdict testKnown(ColumnRange range) {
    if (range.state() == ColumnRange.State.ALL_NULL) {
      return Verdict.NONE;
    }
    int at = Arrays.binarySearch(highs, range.min());
    at = at >= 0 ? at : -at - 1;
    if (at == highs.length || lows[at] > range.max()) {
      return Verdict.NONE;
    }
    boolean covers = lows[at] <= range.min() && highs[at] >= range.max();
    return covers && range.nulls() == 0 ? Verdict.ALL : Verdict.SOME;
  }

  @Override
  public boolean asksForValues() {
    return lows.length > 0
        && lows.length <= BoundTest.MOST_POINTS
        && Arrays.equals(lows, highs)
        && !Ordered.isFloating(field().type());
  }

  @Override
  public boolean mayHold(HeldValues points) {
    return !asksForValues() || Arrays.stream(lows).anyMatch(low -> points.mayHold(field(), low));
  }

  @Override
  public boolean passes(long value) {
    int at = Arrays.binarySearch(lows, value);
    at = at >= 0 ? at : -at - 2;
    return at >= 0 && value <= highs[at];
  }

  @Override
  public int select(Vector vector, int[] rows, int count, int[] to) {
    int left = ofNull(vector, false, rows, count, to);
    if (lows.length != 1) {
      return among(vector, to, left);
    }
    long low = lows[0];
    long high = highs[0];
    if (vector instanceof Vector.OfLong longs) {
      return within(longs.values(), low, high, to, left);
    }
    if (vector instanceof Vector.OfInt ints) {
      int first = (int) Math.max(low, Integer.MIN_VALUE);
      int last = (int) Math.min(high, Integer.MAX_VALUE);
      return low > Integer.MAX_VALUE || high < Integer.MIN_VALUE
          ? 0
          : within(ints.values(), first, last, to, left);
    }
    if (vector instanceof Vector.OfDouble doubles) {
      double[] values = doubles.values();
      int kept = 0;
      for (int j = 0; j < left; j++) {
        int i = to[j];
        long value = Ordered.ofDouble(values[i]);
        to[kept] = i;
        kept += value >= low && value <= high ? 1 : 0;
      }
      return kept;
    }
    return among(vector, to, left);
  }

  /** Without a branch: the borrow of a subtraction tells whether a value is outside. */
  private static int within(long[] values, long low, long high, int[] to, int count) {
    long span = high - low;
    int kept = 0;
    for (int j = 0; j < count; j++) {
      int i = to[j];
      to[kept] = i;
      long from = values[i] - low;
      long borrow = (~span & from) | (~(span ^ from) & (span - from));
      kept += 1 - (int) (borrow >>> 63);
    }
    return kept;
  }

  private static int within(int[] values, int low, int high, int[] to, int count) {
    int kept = 0;
    for (int j = 0; j < count; j++) {
      int i = to[j];
      to[kept] = i;
      long value = values[i];
      kept += 1 - (int) (((value - low) | (high - value)) >>> 63);
    }
    return kept;
  }

  private int among(Vector vector, int[] to, int count) {
    int kept = 0;
    for (int j = 0; j < count; j++) {
      int i = to[j];
      long value = Ordered.number(vector, i);
      to[kept] = i;
      kept += passes(value) ? 1 : 0;
    }
    return kept;
  }
}
