package org.ysteron.internal.filter;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.rows.Selections;

/**
 * Within one of some intervals of bytes, sorted and disjoint, the low bound included and the high
 * one not; a high bound of null is none.
 */
final class ByteIntervals extends BoundTest.OfColumn {
  private final byte[][] lows;
  private final byte[][] highs;

  ByteIntervals(List<Field> along, byte[][] lows, byte[][] highs) {
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
    byte[] min = range.minBytes();
    byte[] max = range.maxBytes();
    int first = firstAbove(min);
    if (first == lows.length || (max != null && Ordered.compare(lows[first], max) > 0)) {
      return Verdict.NONE;
    }
    byte[] high = highs[first];
    boolean covers =
        Ordered.compare(lows[first], min) <= 0
            && (high == null || (max != null && Ordered.compare(high, max) > 0));
    return covers && range.nulls() == 0 ? Verdict.ALL : Verdict.SOME;
  }

  /** The first interval that does not end before some bytes. */
  private int firstAbove(byte[] bytes) {
    int low = 0;
    int high = lows.length;
    while (low < high) {
      int middle = (low + high) >>> 1;
      boolean below = highs[middle] != null && Ordered.compare(highs[middle], bytes) <= 0;
      low = below ? middle + 1 : low;
      high = below ? high : middle;
    }
    return low;
  }

  @Override
  public boolean asksForValues() {
    if (lows.length > BoundTest.MOST_POINTS || field().type() instanceof Type.Decimal) {
      return false;
    }
    for (int i = 0; i < lows.length; i++) {
      boolean point =
          highs[i] != null
              && highs[i].length == lows[i].length + 1
              && Arrays.mismatch(lows[i], highs[i]) == lows[i].length
              && highs[i][lows[i].length] == 0;
      if (!point) {
        return false;
      }
    }
    return true;
  }

  @Override
  public boolean mayHold(HeldValues points) {
    return !asksForValues() || Arrays.stream(lows).anyMatch(low -> points.mayHold(field(), low));
  }

  @Override
  public int cost() {
    return 4;
  }

  @Override
  public boolean passes(byte[] data, int start, int end) {
    return contains(data, start, end);
  }

  @Override
  public int select(Vector vector, int[] rows, int count, int[] to) {
    Vector.OfBytes bytes = (Vector.OfBytes) vector;
    int left = ofNull(vector, false, rows, count, to);
    Vector.Words words = bytes.words();
    if (Selections.byWords(words, left)) {
      return Selections.keep(to, left, words.tested(this, this::contains), bytes.codes(), true);
    }
    int kept = 0;
    for (int j = 0; j < left; j++) {
      int i = to[j];
      int from = bytes.starts()[i];
      to[kept] = i;
      kept += contains(bytes.data(), from, from + bytes.lengths()[i]) ? 1 : 0;
    }
    return kept;
  }

  private boolean contains(byte[] data, int from, int to) {
    int low = 0;
    int high = lows.length - 1;
    while (low <= high) {
      int middle = (low + high) >>> 1;
      byte[] bound = lows[middle];
      if (Arrays.compareUnsigned(data, from, to, bound, 0, bound.length) < 0) {
        high = middle - 1;
      } else {
        byte[] end = highs[middle];
        if (end == null || Arrays.compareUnsigned(data, from, to, end, 0, end.length) < 0) {
          return true;
        }
        low = middle + 1;
      }
    }
    return false;
  }
}
