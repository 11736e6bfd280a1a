package org.ysteron.sql.aggregate;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.compute.Held;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;

/**
 * Aggregates that need all values of a group in an order: LISTAGG and percentiles. The values are
 * kept, and sorted when the first result is asked for; none can be added afterwards. For one
 * thread.
 */
final class Collected extends Accumulator {
  private static final long OF_VALUE = 40;

  private final Aggregate call;
  private final List<Type> types;
  private final List<VectorBuilder> builders = new ArrayList<>();
  private final VectorBuilder groupOf = new VectorBuilder(Types.INTEGER);
  private Batch all;
  private int[] sorted = {};
  private int[] starts = {};
  private int groups;

  /** {@code types}: of the values that the call takes. */
  Collected(Aggregate call, List<Type> types, Running running) {
    super(running);
    this.call = call;
    this.types = types;
    types.forEach(type -> builders.add(new VectorBuilder(type)));
  }

  @Override
  public boolean goesOn() {
    return false;
  }

  @Override
  public void room(int least) {
    groups = Math.max(groups, least);
  }

  /** The place of what decides whether a row counts. */
  private int decides() {
    return call.function() == Aggregate.Function.LISTAGG ? 0 : call.order().get(0).column();
  }

  @Override
  public void add(int[] of, int[] rows, int count, Held[] values) {
    for (int i = 0; i < count; i++) {
      int row = rows[i];
      if (values[decides()].isNull(row)) {
        continue;
      }
      long bytes = OF_VALUE;
      groupOf.add(of[i]);
      for (int v = 0; v < values.length; v++) {
        Object value =
            values[v].isNull(row) ? null : values[v].value(row, types.get(v)).orElse(null);
        builders.get(v).add(value);
        bytes += value instanceof String text ? text.length() : Long.BYTES;
      }
      running.take(bytes);
    }
  }

  private void sort() {
    List<Field> fields = new ArrayList<>(List.of(Field.of("c0", Types.INTEGER)));
    List<Vector> vectors = new ArrayList<>(List.of(groupOf.buildLast()));
    for (int v = 0; v < types.size(); v++) {
      fields.add(Field.of("c" + (v + 1), types.get(v)));
      vectors.add(builders.get(v).buildLast());
    }
    all = new Batch(Schema.of(fields).struct(), vectors.get(0).size(), vectors);
    List<Ordering.Order> orders = new ArrayList<>(List.of(new Ordering.Order(0, false, false)));
    for (Ordering.Order order : call.order()) {
      orders.add(new Ordering.Order(order.column() + 1, order.descending(), order.nullsFirst()));
    }
    sorted = Ordering.sorted(all, orders, running);
    starts = new int[groups + 2];
    for (int i = 0; i < sorted.length; i++) {
      starts[group(i) + 1]++;
    }
    for (int g = 1; g < starts.length; g++) {
      starts[g] += starts[g - 1];
    }
  }

  private int group(int place) {
    return (Integer) all.vectors().get(0).present(sorted[place]);
  }

  private Object value(int argument, int place) {
    return all.vectors().get(argument + 1).get(sorted[place]);
  }

  @Override
  public Vector results(int from, int count) {
    if (all == null) {
      sort();
    }
    VectorBuilder results = new VectorBuilder(call.type(), Math.max(1, count));
    for (int group = from; group < from + count; group++) {
      int start = starts[Math.min(group, starts.length - 1)];
      int end = starts[Math.min(group + 1, starts.length - 1)];
      results.add(start == end ? null : result(start, end));
    }
    return results.buildLast();
  }

  private Object result(int start, int end) {
    return switch (call.function()) {
      case LISTAGG -> joined(start, end);
      case PERCENTILE_DISC -> {
        double fraction = fraction(start);
        int place = (int) Math.ceil(fraction * (end - start)) - 1;
        yield value(call.order().get(0).column(), start + Math.max(0, place));
      }
      case PERCENTILE_CONT -> between(start, end);
      default -> throw new IllegalStateException(call.function().name());
    };
  }

  private String joined(int start, int end) {
    StringBuilder text = new StringBuilder();
    for (int i = start; i < end; i++) {
      Object separator = types.size() - call.order().size() > 1 ? value(1, i) : null;
      if (i > start && separator != null) {
        text.append(separator);
      }
      text.append(value(0, i));
    }
    return text.toString();
  }

  private double fraction(int start) {
    Object value = value(0, start);
    double fraction = value instanceof Number number ? number.doubleValue() : Double.NaN;
    if (!(fraction >= 0 && fraction <= 1)) {
      throw new InvalidInputException(
          "A percentile takes a fraction from 0 to 1, not %s.".formatted(value));
    }
    return fraction;
  }

  /** The value between two neighbours, by how near each is. */
  private Object between(int start, int end) {
    double place = fraction(start) * (end - start - 1);
    int low = (int) Math.floor(place);
    int high = (int) Math.ceil(place);
    double one = number(start + low);
    double other = number(start + high);
    return low == high ? one : one + (other - one) * (place - low);
  }

  private double number(int place) {
    Object value = value(call.order().get(0).column(), place);
    if (value instanceof Number number) {
      return number.doubleValue();
    }
    throw new InvalidInputException(
        "PERCENTILE_CONT takes numbers; PERCENTILE_DISC takes every type that has an order.");
  }
}
