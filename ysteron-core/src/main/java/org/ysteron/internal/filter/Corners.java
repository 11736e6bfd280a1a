package org.ysteron.internal.filter;

import java.util.ArrayList;
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
  private static final int MOST_POINTS = 4;

  private final IdentityHashMap<Typed, Ready> known = new IdentityHashMap<>();

  private record Ready(
      Computation computation, Type.Struct arguments, List<VectorBuilder> builders) {}

  /**
   * A function's values at some points.
   *
   * @param arguments the values of each argument, one for each point
   * @return empty when it fails, is null or is not a number at one of them
   */
  Optional<List<Object>> values(Typed function, List<Object[]> arguments) {
    Ready ready = known.get(function);
    if (ready == null) {
      ready = ready(function);
      known.put(function, ready);
    }
    int points = arguments.get(0).length;
    List<Vector> vectors = new ArrayList<>(arguments.size());
    for (int a = 0; a < arguments.size(); a++) {
      VectorBuilder builder = ready.builders.get(a);
      for (Object value : arguments.get(a)) {
        builder.add(value);
      }
      vectors.add(builder.build());
    }
    Vector computed;
    try {
      computed = ready.computation.values(new Batch(ready.arguments, points, vectors));
    } catch (ComputeException e) {
      return Optional.empty();
    }
    List<Object> values = new ArrayList<>(points);
    for (int i = 0; i < points; i++) {
      Object value = computed.get(i);
      if (value == null || (value instanceof Double d && Double.isNaN(d))) {
        return Optional.empty();
      }
      values.add(value);
    }
    return Optional.of(values);
  }

  private static Ready ready(Typed function) {
    List<Field> fields = new ArrayList<>();
    List<Typed> columns = new ArrayList<>();
    for (Typed part : function.parts()) {
      int number = fields.size() + 1;
      Field field = Field.of("argument " + number, part.type()).withId(number);
      fields.add(field);
      columns.add(new Typed.OfColumn(Column.Input.TABLE, List.of(field)));
    }
    Typed open =
        function instanceof Typed.Applied applied
            ? new Typed.Applied(applied.operator(), columns, applied.type())
            : function instanceof Typed.OfTime part
                ? new Typed.OfTime(part.kind(), part.unit(), columns.get(0), part.type())
                : new Typed.Converted(columns.get(0), function.type());
    return new Ready(
        new Computation(open),
        new Type.Struct(fields),
        fields.stream().map(field -> new VectorBuilder(field.type(), MOST_POINTS)).toList());
  }
}
