package org.ysteron.internal.compute;

import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.rows.Selections;

/**
 * CASE and COALESCE: each row has the value of one of several kernels, which sees its rows only.
 */
final class Choices {
  private Choices() {}

  /** Collects values of several kernels. */
  private abstract static class Collecting extends Kernel {
    private final Wide scratch = new Wide();
    private Vector[] vectors;
    private int[] places;
    private int[] left = {};
    private int[] chosen = {};

    Collecting(Type type) {
      super(type);
    }

    final int[] left(int size) {
      if (left.length < size) {
        left = new int[size];
        chosen = new int[size];
      }
      return left;
    }

    final int[] chosen() {
      return chosen;
    }

    final void beginAll(int size, int kernels) {
      out.begin(size, Held.form(type));
      out.allNull();
      if (type.isNested()) {
        vectors = new Vector[kernels];
        places = new int[size];
        Arrays.fill(places, -1);
      }
    }

    final void take(Held from, int kernel, int[] rows, int count) {
      if (type.isNested()) {
        vectors[kernel] = from.vector;
      }
      for (int j = 0; j < count; j++) {
        int i = rows[j];
        if (!from.isNull(i)) {
          out.nulls[i >> 6] &= ~(1L << i);
          value(from, kernel, i);
        }
      }
    }

    private void value(Held from, int kernel, int i) {
      switch (Held.form(type)) {
        case LONGS -> {
          if (from.highs == null && out.highs == null) {
            out.longs[i] = from.longs[i];
          } else {
            out.set(i, from.to(scratch, i));
          }
        }
        case DOUBLES -> out.doubles[i] = from.doubles[i];
        case BYTES -> out.copy(i, from.data, from.starts[i], from.lengths[i]);
        case NESTED -> places[i] = kernel;
      }
    }

    final Held end() {
      if (!type.isNested()) {
        return out;
      }
      VectorBuilder all = new VectorBuilder(type, out.size);
      int[] one = new int[1];
      for (int i = 0; i < out.size; i++) {
        if (places[i] < 0) {
          all.addNull();
        } else {
          one[0] = i;
          all.addAll(vectors[places[i]], one, 1);
        }
      }
      return out.of(all.buildLast(), scratch);
    }
  }

  /** CASE. */
  static final class Choice extends Collecting {
    private final List<RowTest> tests;
    private final List<Kernel> values;

    /** {@code values} has one more than there are tests: what counts where none is true. */
    Choice(List<RowTest> tests, List<Kernel> values, Type type) {
      super(type);
      this.tests = tests;
      this.values = values;
    }

    @Override
    public Held eval(Rows rows) {
      int[] left = left(rows.size());
      System.arraycopy(rows.selected(), 0, left, 0, rows.count());
      int count = rows.count();
      beginAll(rows.size(), values.size());
      for (int t = 0; t < tests.size() && count > 0; t++) {
        Rows rest = rows.only(left, count);
        int passed = tests.get(t).select(rest, chosen());
        if (passed > 0) {
          take(values.get(t).eval(rows.only(chosen(), passed)), t, chosen(), passed);
          count = without(left, count, chosen(), passed);
        }
      }
      if (count > 0) {
        int last = values.size() - 1;
        take(values.get(last).eval(rows.only(left, count)), last, left, count);
      }
      return end();
    }

    /** Takes some rows out of others; both are ascending. */
    private static int without(int[] rows, int count, int[] gone, int number) {
      int kept = 0;
      int g = 0;
      for (int j = 0; j < count; j++) {
        if (g < number && gone[g] == rows[j]) {
          g++;
        } else {
          rows[kept++] = rows[j];
        }
      }
      return kept;
    }
  }

  /** COALESCE. */
  static final class First extends Collecting {
    private final List<Kernel> values;

    First(List<Kernel> values, Type type) {
      super(type);
      this.values = values;
    }

    @Override
    public Held eval(Rows rows) {
      int[] left = left(rows.size());
      System.arraycopy(rows.selected(), 0, left, 0, rows.count());
      int count = rows.count();
      beginAll(rows.size(), values.size());
      for (int v = 0; v < values.size() && count > 0; v++) {
        Held held = values.get(v).eval(rows.only(left, count));
        take(held, v, left, count);
        count = Selections.keep(left, count, held.nulls, true, left);
      }
      return end();
    }
  }
}
