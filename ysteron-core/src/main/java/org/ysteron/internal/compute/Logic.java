package org.ysteron.internal.compute;

import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Types;
import org.ysteron.internal.rows.Selections;

/** AND, OR, and conditions as values. */
final class Logic {
  private Logic() {}

  /** Each test narrows what the one before left. */
  static final class All extends RowTest {
    private final List<RowTest> parts;

    All(List<RowTest> parts) {
      this.parts = parts;
    }

    @Override
    public int select(Rows rows, int[] to) {
      if (to != rows.selected()) {
        System.arraycopy(rows.selected(), 0, to, 0, rows.count());
      }
      int count = rows.count();
      for (RowTest part : parts) {
        if (count == 0) {
          break;
        }
        count = part.select(rows.only(to, count), to);
      }
      return count;
    }
  }

  /** Each test looks at what none before selected. */
  static final class Any extends RowTest {
    private final List<RowTest> parts;
    private int[] left = {};
    private int[] found = {};
    private long[] marks = {};

    Any(List<RowTest> parts) {
      this.parts = parts;
    }

    @Override
    public int select(Rows rows, int[] to) {
      int words = (rows.size() + 63) >> 6;
      if (left.length < rows.count()) {
        left = new int[rows.size()];
        found = new int[rows.size()];
      }
      if (marks.length < words) {
        marks = new long[words];
      }
      Arrays.fill(marks, 0, words, 0);
      System.arraycopy(rows.selected(), 0, left, 0, rows.count());
      int count = rows.count();
      for (RowTest part : parts) {
        if (count == 0) {
          break;
        }
        int passed = part.select(rows.only(left, count), found);
        Selections.mark(found, passed, marks);
        count = Selections.keep(left, count, marks, false, left);
      }
      return Selections.keep(rows.selected(), rows.count(), marks, true, to);
    }
  }

  /** A condition as a value: null where neither it nor its opposite is true. */
  static final class Truth extends Kernel {
    private final RowTest test;
    private final RowTest opposite;
    private int[] found = {};

    Truth(RowTest test, RowTest opposite) {
      super(Types.BOOLEAN);
      this.test = test;
      this.opposite = opposite;
    }

    @Override
    public Held eval(Rows rows) {
      if (found.length < rows.count()) {
        found = new int[rows.size()];
      }
      out.begin(rows.size(), Held.Form.LONGS);
      out.allNull();
      mark(test.select(rows, found), 1);
      mark(opposite.select(rows, found), 0);
      return out;
    }

    private void mark(int count, long value) {
      for (int j = 0; j < count; j++) {
        out.longs[found[j]] = value;
        out.nulls[found[j] >> 6] &= ~(1L << found[j]);
      }
    }
  }
}
