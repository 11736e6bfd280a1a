package org.ysteron.internal.file;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.internal.filter.ColumnTest;
import org.ysteron.internal.filter.Filter;

/**
 * The tests of single columns in the order in which they cost least: first what leaves few rows for
 * little work, as the batches before have shown. For one thread.
 */
final class TestOrder {
  /** What bytes cost more than numbers. */
  private static final double COST_OF_BYTES = 2;

  /** So many rows count as if half of them had passed. */
  private static final double ASSUMED = 256;

  /** After so many rows, older ones count half. */
  private static final double MEMORY = 1 << 17;

  private final List<Step> steps = new ArrayList<>();

  /** A test, and what became of the rows that came to it. */
  static final class Step {
    private final ColumnTest test;
    private final int column;
    private final double cost;
    private double came;
    private double passed;

    private Step(ColumnTest test, int column) {
      this.test = test;
      this.column = column;
      boolean ofBytes = test.field().type().physical() == Type.Physical.BYTES;
      this.cost = ofBytes ? COST_OF_BYTES : 1;
    }

    ColumnTest test() {
      return test;
    }

    /** The place of its column. */
    int column() {
      return column;
    }

    void learn(int rows, int left) {
      came += rows;
      passed += left;
      if (came > MEMORY) {
        came /= 2;
        passed /= 2;
      }
    }

    /** The share of rows that it takes away for its cost. */
    private double gain() {
      return (1 - (passed + ASSUMED / 2) / (came + ASSUMED)) / cost;
    }
  }

  /** The tests of a filter; {@code columns}: those that are read, in their order. */
  TestOrder(Filter filter, List<Field> columns) {
    for (ColumnTest test : filter.ofColumns()) {
      int c = 0;
      while (columns.get(c).id() != test.field().id()) {
        c++;
      }
      steps.add(new Step(test, c));
    }
  }

  /**
   * The tests, those first that are best asked first; what is alike stays in the filter's order.
   */
  List<Step> steps() {
    for (int i = 1; i < steps.size(); i++) {
      for (int j = i; j > 0 && steps.get(j).gain() > steps.get(j - 1).gain(); j--) {
        steps.set(j, steps.set(j - 1, steps.get(j)));
      }
    }
    return steps;
  }
}
