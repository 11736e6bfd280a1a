package org.ysteron.internal.compute;

import java.util.Arrays;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.rows.Selections;
import org.ysteron.internal.text.LikePattern;
import org.ysteron.internal.typing.Numbers;

/** Tests that compare two values of each row. */
final class Comparisons {
  private Comparisons() {}

  /** Compares two values of types that are held alike, exact numbers at the same scale. */
  static int compare(Held one, int i, Held other, int j, Type type) {
    return switch (Held.form(type)) {
      case LONGS -> {
        long x = one.longs[i];
        long y = other.longs[j];
        if (one.highs == null && other.highs == null) {
          yield Long.compare(x, y);
        }
        int order =
            Long.compare(
                one.highs == null ? x >> 63 : one.highs[i],
                other.highs == null ? y >> 63 : other.highs[j]);
        yield order != 0 ? order : Long.compareUnsigned(x, y);
      }
      case DOUBLES -> compare(one.doubles[i], other.doubles[j]);
      case BYTES ->
          Arrays.compareUnsigned(
              one.data,
              one.starts[i],
              one.starts[i] + one.lengths[i],
              other.data,
              other.starts[j],
              other.starts[j] + other.lengths[j]);
      case NESTED -> throw new IllegalStateException("nested values do not compare");
    };
  }

  static int compare(double x, double y) {
    return x == y ? 0 : Double.compare(x, y);
  }

  /** Keeps the rows in which neither value is null. */
  static int notNull(Rows rows, Held one, Held other, int[] to) {
    int count = Selections.keep(rows.selected(), rows.count(), one.nulls, false, to);
    return one == other ? count : Selections.keep(to, count, other.nulls, false, to);
  }

  /** Two values against each other, exact numbers also of different scales. */
  static final class Pair {
    private final Kernel left;
    private final Kernel right;
    private final int leftShift;
    private final int rightShift;
    private final Wide a = new Wide();
    private final Wide b = new Wide();
    private final Wide ten = new Wide();
    private Held one;
    private Held other;

    Pair(Kernel left, Kernel right) {
      this.left = left;
      this.right = right;
      boolean exact = Numbers.isExact(left.type) && Numbers.isExact(right.type);
      int scale = exact ? Math.max(Numbers.scale(left.type), Numbers.scale(right.type)) : 0;
      this.leftShift = exact ? scale - Numbers.scale(left.type) : 0;
      this.rightShift = exact ? scale - Numbers.scale(right.type) : 0;
    }

    void eval(Rows rows) {
      eval(left.eval(rows), rows);
    }

    /** With the left values that are known. */
    void eval(Held known, Rows rows) {
      one = known;
      other = right.eval(rows);
    }

    Held left() {
      return one;
    }

    Held right() {
      return other;
    }

    Type type() {
      return left.type;
    }

    boolean isPlain() {
      return leftShift == 0 && rightShift == 0 && one.highs == null && other.highs == null;
    }

    int compare(int row) {
      if (leftShift == 0 && rightShift == 0) {
        return Comparisons.compare(one, row, other, row, left.type);
      }
      one.to(a, row);
      other.to(b, row);
      // What overflows is beyond all that the other side can be.
      if (!a.multiply(ten.setTen(leftShift))) {
        return one.to(a, row).isNegative() ? -1 : 1;
      }
      if (!b.multiply(ten.setTen(rightShift))) {
        return other.to(b, row).isNegative() ? 1 : -1;
      }
      return a.order(b);
    }
  }

  /** {@code = <> < <= > >=}. */
  static final class Compare extends RowTest {
    private final Pair pair;
    private final Condition.Comparison comparison;

    Compare(Kernel left, Condition.Comparison comparison, Kernel right) {
      this.pair = new Pair(left, right);
      this.comparison = comparison;
    }

    @Override
    public int select(Rows rows, int[] to) {
      pair.eval(rows);
      int count = notNull(rows, pair.left(), pair.right(), to);
      if (Held.form(pair.type()) == Held.Form.LONGS && pair.isPlain()) {
        return longs(pair.left().longs, pair.right().longs, to, count);
      }
      if (Held.form(pair.type()) == Held.Form.BYTES
          && (comparison == Condition.Comparison.EQUAL
              || comparison == Condition.Comparison.NOT_EQUAL)) {
        return bytes(pair.left(), pair.right(), to, count);
      }
      int kept = 0;
      for (int j = 0; j < count; j++) {
        int i = to[j];
        to[kept] = i;
        kept += comparison.holds(pair.compare(i)) ? 1 : 0;
      }
      return kept;
    }

    private int longs(long[] x, long[] y, int[] to, int count) {
      int kept = 0;
      switch (comparison) {
        case EQUAL -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] == y[i] ? 1 : 0;
          }
        }
        case NOT_EQUAL -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] != y[i] ? 1 : 0;
          }
        }
        case LESS -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] < y[i] ? 1 : 0;
          }
        }
        case AT_MOST -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] <= y[i] ? 1 : 0;
          }
        }
        case GREATER -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] > y[i] ? 1 : 0;
          }
        }
        case AT_LEAST -> {
          for (int j = 0; j < count; j++) {
            int i = to[j];
            to[kept] = i;
            kept += x[i] >= y[i] ? 1 : 0;
          }
        }
      }
      return kept;
    }

    private int bytes(Held x, Held y, int[] to, int count) {
      boolean wanted = comparison == Condition.Comparison.EQUAL;
      int kept = 0;
      for (int j = 0; j < count; j++) {
        int i = to[j];
        to[kept] = i;
        boolean equal =
            x.lengths[i] == y.lengths[i]
                && Arrays.equals(
                    x.data,
                    x.starts[i],
                    x.starts[i] + x.lengths[i],
                    y.data,
                    y.starts[i],
                    y.starts[i] + y.lengths[i]);
        kept += equal == wanted ? 1 : 0;
      }
      return kept;
    }
  }

  /** IS DISTINCT FROM, and IS NOT. */
  static final class Distinct extends RowTest {
    private final Pair pair;
    private final boolean wanted;

    Distinct(Kernel left, Kernel right, boolean wanted) {
      this.pair = new Pair(left, right);
      this.wanted = wanted;
    }

    @Override
    public int select(Rows rows, int[] to) {
      pair.eval(rows);
      int kept = 0;
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        boolean one = pair.left().isNull(i);
        boolean other = pair.right().isNull(i);
        boolean distinct = (one || other) ? one != other : pair.compare(i) != 0;
        to[kept] = i;
        kept += distinct == wanted ? 1 : 0;
      }
      return kept;
    }
  }

  /** IS NULL, and IS NOT NULL. */
  static final class OfNull extends RowTest {
    private final Kernel value;
    private final boolean wanted;

    OfNull(Kernel value, boolean wanted) {
      this.value = value;
      this.wanted = wanted;
    }

    @Override
    public int select(Rows rows, int[] to) {
      long[] nulls = value.eval(rows).nulls;
      return Selections.keep(rows.selected(), rows.count(), nulls, wanted, to);
    }
  }

  /** LIKE, and NOT LIKE. */
  static final class Like extends RowTest {
    private final Kernel value;
    private final LikePattern pattern;
    private final boolean wanted;

    Like(Kernel value, LikePattern pattern, boolean wanted) {
      this.value = value;
      this.pattern = pattern;
      this.wanted = wanted;
    }

    @Override
    public int select(Rows rows, int[] to) {
      Held held = value.eval(rows);
      int count = notNull(rows, held, held, to);
      if (Selections.byWords(held.words, count)) {
        boolean[] matches =
            held.words.tested(
                pattern, (data, start, end) -> pattern.matches(data, start, end - start));
        return Selections.keep(to, count, matches, held.codes, wanted);
      }
      int kept = 0;
      for (int j = 0; j < count; j++) {
        int i = to[j];
        to[kept] = i;
        boolean matches = pattern.matches(held.data, held.starts[i], held.lengths[i]);
        kept += matches == wanted ? 1 : 0;
      }
      return kept;
    }
  }

  /** A boolean that is true, or false. */
  static final class Holds extends RowTest {
    private final Kernel value;
    private final long wanted;

    Holds(Kernel value, boolean wanted) {
      this.value = value;
      this.wanted = wanted ? 1 : 0;
    }

    @Override
    public int select(Rows rows, int[] to) {
      Held held = value.eval(rows);
      int kept = 0;
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        to[kept] = i;
        kept += !held.isNull(i) && held.longs[i] == wanted ? 1 : 0;
      }
      return kept;
    }
  }
}
