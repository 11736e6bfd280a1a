package org.ysteron.internal.compute;

import java.util.Arrays;
import org.ysteron.internal.rows.Selections;

/** IN, and NOT IN. */
final class OneOf extends RowTest {
  private final Kernel value;
  private final Comparisons.Pair[] options;
  private final boolean negated;
  private long[] found = {};
  private long[] unknown = {};
  private int[] left = {};

  OneOf(Kernel value, Kernel[] options, boolean negated) {
    this.value = value;
    this.options =
        Arrays.stream(options)
            .map(option -> new Comparisons.Pair(value, option))
            .toArray(Comparisons.Pair[]::new);
    this.negated = negated;
  }

  @Override
  public int select(Rows rows, int[] to) {
    int words = (rows.size() + 63) >> 6;
    if (found.length < words) {
      found = new long[words];
      unknown = new long[words];
    }
    if (left.length < rows.count()) {
      left = new int[rows.size()];
    }
    Arrays.fill(found, 0, words, 0);
    Arrays.fill(unknown, 0, words, 0);
    Held held = value.eval(rows);
    int count = Comparisons.notNull(rows, held, held, left);
    for (Comparisons.Pair option : options) {
      option.eval(held, rows.only(left, count));
      count = without(option, count);
    }
    return negated
        ? Selections.keep(left, count, unknown, false, to)
        : Selections.keep(rows.selected(), rows.count(), found, true, to);
  }

  /** Marks the rows that are equal to an option, and keeps the others. */
  private int without(Comparisons.Pair option, int count) {
    int kept = 0;
    for (int j = 0; j < count; j++) {
      int i = left[j];
      left[kept] = i;
      if (option.right().isNull(i)) {
        unknown[i >> 6] |= 1L << i;
        kept++;
      } else if (option.compare(i) == 0) {
        found[i >> 6] |= 1L << i;
      } else {
        kept++;
      }
    }
    return kept;
  }
}
