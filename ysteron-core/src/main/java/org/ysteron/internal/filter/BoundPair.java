package org.ysteron.internal.filter;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.Widening;
import org.ysteron.expr.Condition;

/**
 * Two columns of a row against each other, in a type that takes the values of both exactly.
 *
 * @param left the fields along the left column's path
 * @param comparison how they must compare
 * @param right the fields along the right column's path
 * @param type the type in which they are compared
 */
record BoundPair(List<Field> left, Condition.Comparison comparison, List<Field> right, Type type)
    implements BoundTest {

  @Override
  public int cost() {
    return 2;
  }

  @Override
  public int select(Batch batch, int[] rows, int count, int[] to) {
    Vector one = wide(Paths.vector(batch, left));
    Vector other = wide(Paths.vector(batch, right));
    int rest = BoundTest.OfColumn.ofNull(one, false, rows, count, to);
    rest = BoundTest.OfColumn.ofNull(other, false, to, rest, to);
    int kept = 0;
    for (int j = 0; j < rest; j++) {
      int i = to[j];
      to[kept] = i;
      kept += comparison.holds(compare(one, other, i)) ? 1 : 0;
    }
    return kept;
  }

  private Vector wide(Vector vector) {
    return Widening.isHeldAlike(vector.type(), type) ? vector : Widening.vector(vector, type);
  }

  private static int compare(Vector one, Vector other, int row) {
    if (one instanceof Vector.OfBytes a && other instanceof Vector.OfBytes b) {
      return Arrays.compareUnsigned(
          a.data(),
          a.starts()[row],
          a.starts()[row] + a.lengths()[row],
          b.data(),
          b.starts()[row],
          b.starts()[row] + b.lengths()[row]);
    }
    return Long.compare(Ordered.number(one, row), Ordered.number(other, row));
  }

  @Override
  public Verdict test(Ranges ranges) {
    ColumnRange one = ranges.range(last(left).id());
    ColumnRange other = ranges.range(last(right).id());
    boolean none =
        one.state() == ColumnRange.State.ALL_NULL || other.state() == ColumnRange.State.ALL_NULL;
    return none ? Verdict.NONE : Verdict.SOME;
  }

  @Override
  public void collect(Map<Integer, Field> columns) {
    columns.put(last(left).id(), last(left));
    columns.put(last(right).id(), last(right));
  }

  private static Field last(List<Field> along) {
    return along.get(along.size() - 1);
  }
}
