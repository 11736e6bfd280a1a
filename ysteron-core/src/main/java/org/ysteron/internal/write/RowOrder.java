package org.ysteron.internal.write;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.layout.Layout;

/** The order of rows by a layout's sort columns; rows that are alike stay as they came. */
final class RowOrder {
  private final List<int[]> paths = new ArrayList<>();
  private final List<Layout.SortColumn> columns;

  RowOrder(List<Layout.SortColumn> columns, Schema schema) {
    this.columns = columns;
    columns.forEach(column -> paths.add(PartitionBuffer.path(schema, column.fieldId())));
  }

  /** The positions of the rows of a batch in order. */
  int[] of(Batch batch) {
    Integer[] rows = new Integer[batch.size()];
    Arrays.setAll(rows, i -> i);
    Comparator<Integer> order = null;
    for (int c = 0; c < paths.size(); c++) {
      Vector vector = PartitionBuffer.at(batch, paths.get(c));
      Comparator<Integer> by = by(vector, columns.get(c).descending());
      order = order == null ? by : order.thenComparing(by);
    }
    if (order != null) {
      Arrays.sort(rows, order);
    }
    int[] sorted = new int[rows.length];
    for (int i = 0; i < sorted.length; i++) {
      sorted[i] = rows[i];
    }
    return sorted;
  }

  private static Comparator<Integer> by(Vector vector, boolean descending) {
    Comparator<Integer> values =
        vector instanceof Vector.OfBytes bytes
            ? (a, b) ->
                Arrays.compareUnsigned(
                    bytes.data(),
                    bytes.starts()[a],
                    bytes.starts()[a] + bytes.lengths()[a],
                    bytes.data(),
                    bytes.starts()[b],
                    bytes.starts()[b] + bytes.lengths()[b])
            : (a, b) -> Long.compare(Ordered.number(vector, a), Ordered.number(vector, b));
    Comparator<Integer> ordered = descending ? values.reversed() : values;
    return (a, b) -> {
      boolean first = vector.isNull(a);
      boolean second = vector.isNull(b);
      if (first || second) {
        return Boolean.compare(first, second);
      }
      return ordered.compare(a, b);
    };
  }
}
