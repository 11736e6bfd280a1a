package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Column;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.typing.Typed;

/** Functions of one condition at single points, made ready once for all ranges. For one thread. */
final class Corners {
  private final IdentityHashMap<Typed, Function> known = new IdentityHashMap<>();

  /** The function itself, without its arguments. */
  Function of(Typed typed) {
    return known.computeIfAbsent(typed, Function::new);
  }

  /** A function, and what it was last: pages often have the ranges of those before them. */
  static final class Function {
    private final Typed typed;
    private final boolean strict;
    private final boolean monotone;
    private Computation computation;
    private Type.Struct arguments;
    private Object[][] last;
    private Optional<List<Object>> values;

    Function(Typed typed) {
      this.typed = typed;
      this.strict = Monotone.isStrict(typed);
      this.monotone = Monotone.isMonotone(typed);
    }

    /** Whether it is null where an argument is. */
    boolean isStrict() {
      return strict;
    }

    /** Whether it rises or falls in each argument, whatever the others are. */
    boolean isMonotone() {
      return monotone;
    }

    /**
     * Its values at some points.
     *
     * @param points the values of each argument, one for each point
     * @return empty when it fails, is null or is not a number at one of them
     */
    Optional<List<Object>> at(Object[][] points) {
      if (computation == null) {
        open();
      }
      if (!Arrays.deepEquals(points, last)) {
        values = compute(points);
        last = points;
      }
      return values;
    }

    /** Puts columns in place of what it is computed from. */
    private void open() {
      List<Field> fields = new ArrayList<>();
      List<Typed> columns = new ArrayList<>();
      for (Typed part : typed.parts()) {
        int number = fields.size() + 1;
        Field field = Field.of("argument " + number, part.type()).withId(number);
        fields.add(field);
        columns.add(new Typed.OfColumn(Column.Input.TABLE, List.of(field)));
      }
      Typed open =
          typed instanceof Typed.Applied applied
              ? new Typed.Applied(applied.operator(), columns, applied.type())
              : typed instanceof Typed.OfTime part
                  ? new Typed.OfTime(part.kind(), part.unit(), columns.get(0), part.type())
                  : new Typed.Converted(columns.get(0), typed.type());
      arguments = new Type.Struct(fields);
      computation = new Computation(open);
    }

    private Optional<List<Object>> compute(Object[][] points) {
      int count = points[0].length;
      List<Vector> vectors = new ArrayList<>(points.length);
      for (int a = 0; a < points.length; a++) {
        VectorBuilder builder = new VectorBuilder(arguments.fields().get(a).type(), count);
        for (Object value : points[a]) {
          builder.add(value);
        }
        vectors.add(builder.buildLast());
      }
      Vector computed;
      try {
        computed = computation.values(new Batch(arguments, count, vectors));
      } catch (ComputeException e) {
        return Optional.empty();
      }
      List<Object> found = new ArrayList<>(count);
      for (int i = 0; i < count; i++) {
        Object value = computed.get(i);
        if (value == null || (value instanceof Double d && Double.isNaN(d))) {
          return Optional.empty();
        }
        found.add(value);
      }
      return Optional.of(found);
    }
  }
}
