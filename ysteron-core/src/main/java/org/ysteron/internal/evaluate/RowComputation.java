package org.ysteron.internal.evaluate;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Column;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/** Expressions and conditions of single rows, where there are no batches. For one thread. */
public final class RowComputation {
  private final Side table = new Side();
  private final Side source = new Side();
  private final Optional<Computation> value;
  private final Optional<Selecting> test;

  private RowComputation(List<Typed> parts, Optional<Computation> value, Optional<Selecting> test) {
    parts.forEach(this::collect);
    this.value = value;
    this.test = test;
  }

  /** An expression. */
  public static RowComputation of(Typed typed) {
    return new RowComputation(
        List.of(typed), Optional.of(new Computation(typed)), Optional.empty());
  }

  /** A condition. */
  public static RowComputation of(TypedTest condition) {
    return new RowComputation(
        condition.values(), Optional.empty(), Optional.of(new Selecting(condition)));
  }

  private void collect(Typed typed) {
    if (typed instanceof Typed.OfColumn column) {
      Side side = column.input() == Column.Input.SOURCE ? source : table;
      side.columns.put(column.along().get(0).name(), column.along().get(0));
    }
    typed.parts().forEach(this::collect);
  }

  /** The value for a row of a table and one of a source; either may be null. */
  public Object value(Row ofTable, Row ofSource) {
    return value.orElseThrow().values(table.batch(ofTable), source.batch(ofSource), 1).get(0);
  }

  /** Whether the condition is true for a row of a table and one of a source. */
  public boolean isTrue(Row ofTable, Row ofSource) {
    long[] bits = new long[1];
    test.orElseThrow().select(table.batch(ofTable), source.batch(ofSource), 1, bits);
    return bits[0] != 0;
  }

  /** The columns of one side as a batch of one row. */
  private static final class Side {
    private final Map<String, Field> columns = new LinkedHashMap<>();
    private final List<VectorBuilder> builders = new ArrayList<>();
    private Type.Struct struct;

    Optional<Batch> batch(Row row) {
      if (row == null) {
        return Optional.empty();
      }
      if (struct == null) {
        struct = new Type.Struct(List.copyOf(columns.values()));
        columns.values().forEach(field -> builders.add(new VectorBuilder(field.type(), 1)));
      }
      List<Vector> vectors = new ArrayList<>();
      int at = 0;
      for (String name : columns.keySet()) {
        vectors.add(builders.get(at++).single(row.get(name)));
      }
      return Optional.of(new Batch(struct, 1, vectors));
    }
  }
}
