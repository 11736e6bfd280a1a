package org.ysteron.internal.filter;

import java.util.Arrays;
import java.util.List;
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
    return lows.length <= BoundTest.MOST_POINTS
        && Arrays.equals(lows, highs)
        && !Ordered.isFloating(field().type());
  }

  @Override
  public boolean mayHold(HeldValues points) {
    return !asksForValues() || Arrays.stream(lows).anyMatch(low -> points.mayHold(field(), low));
  }

  @Override
  void selectFrom(Vector vector, long[] selected) {
    int size = vector.size();
    if (vector instanceof Vector.OfLong longs) {
      long[] values = longs.values();
      for (int i = 0; i < size; i++) {
        mark(selected, i, values[i]);
      }
    } else if (vector instanceof Vector.OfInt ints) {
      int[] values = ints.values();
      for (int i = 0; i < size; i++) {
        mark(selected, i, values[i]);
      }
    } else if (vector instanceof Vector.OfDouble doubles) {
      double[] values = doubles.values();
      for (int i = 0; i < size; i++) {
        mark(selected, i, Ordered.ofDouble(values[i]));
      }
    } else if (vector instanceof Vector.OfFloat floats) {
      float[] values = floats.values();
      for (int i = 0; i < size; i++) {
        mark(selected, i, Ordered.ofDouble(values[i]));
      }
    } else {
      boolean[] values = ((Vector.OfBoolean) vector).values();
      for (int i = 0; i < size; i++) {
        mark(selected, i, values[i] ? 1 : 0);
      }
    }
    dropNulls(vector, selected);
  }

  private void mark(long[] selected, int i, long value) {
    boolean in;
    if (lows.length == 1) {
      in = value >= lows[0] && value <= highs[0];
    } else {
      int at = Arrays.binarySearch(lows, value);
      at = at >= 0 ? at : -at - 2;
      in = at >= 0 && value <= highs[at];
    }
    if (in) {
      selected[i >> 6] |= 1L << i;
    }
  }
}
