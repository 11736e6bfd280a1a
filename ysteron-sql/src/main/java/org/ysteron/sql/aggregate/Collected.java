package org.ysteron.sql.aggregate;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.MergedRuns;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;

/**
 * Aggregates that need all values of a group in an order: LISTAGG and percentiles. The values are
 * kept, or wait in sorted files when memory is short. They are read in their order when the first
 * result is asked for; none can be added afterwards. For one thread.
 */
final class Collected extends Accumulator {
  private static final long OF_VALUE = 40;

  private final Aggregate call;
  private final List<Type> types;
  private final Schema columns;
  private final List<Ordering.Order> orders = new ArrayList<>();
  private final Running kept;
  private List<VectorBuilder> builders;
  private Spill runs;
  private long[] counts = {};
  private int groups;
  private Vector results;

  /** {@code types}: of the values that the call takes. */
  Collected(Aggregate call, List<Type> types, Running running) {
    super(running);
    this.call = call;
    this.types = types;
    this.kept = running.keeping("values in an order");
    List<Type> all = new ArrayList<>(List.of(Types.INTEGER));
    all.addAll(types);
    this.columns = Made.schema(all);
    this.builders = builders();
    orders.add(new Ordering.Order(0, false, false));
    for (Ordering.Order order : call.order()) {
      orders.add(new Ordering.Order(order.column() + 1, order.descending(), order.nullsFirst()));
    }
  }

  private List<VectorBuilder> builders() {
    return columns.columns().stream().map(field -> new VectorBuilder(field.type())).toList();
  }

  @Override
  public boolean goesOn() {
    return false;
  }

  @Override
  public void room(int least) {
    groups = Math.max(groups, least);
    if (groups > counts.length) {
      int more = longer(counts.length, groups);
      running.take(8L * (more - counts.length));
      counts = Arrays.copyOf(counts, more);
    }
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
      builders.get(0).add(of[i]);
      counts[of[i]]++;
      for (int v = 0; v < values.length; v++) {
        Object value =
            values[v].isNull(row) ? null : values[v].value(row, types.get(v)).orElse(null);
        builders.get(v + 1).add(value);
        bytes += value instanceof String one ? one.length() : Long.BYTES;
      }
      kept.take(bytes);
    }
    if (kept.isTight(kept.own())) {
      putAway();
    }
  }

  /** What is kept, by groups and in the order. */
  private Batch sorted() {
    List<Vector> vectors = builders.stream().map(VectorBuilder::buildLast).toList();
    Batch all = new Batch(columns.struct(), vectors.get(0).size(), vectors);
    return Gather.rows(all, Ordering.sorted(all, orders, running));
  }

  private void putAway() {
    runs = runs == null ? new Spill(columns, 1, running) : runs;
    runs.addRun(sorted());
    builders = builders();
    kept.release();
  }

  @Override
  public Vector results(int from, int count) {
    if (results == null) {
      results = read();
      close();
    }
    return Gather.values(results, Selected.between(from, from + count));
  }

  private Vector read() {
    Reading reading = new Reading();
    if (runs == null) {
      reading.take(sorted());
    } else {
      if (builders.get(0).size() > 0) {
        putAway();
      }
      new MergedRuns(runs, columns, orders).each(some -> reading.take(some.batch()));
    }
    return reading.end();
  }

  /** One result after the other, of values that come by groups and in their order. */
  private final class Reading {
    private final VectorBuilder told = new VectorBuilder(call.type(), Math.max(1, groups));
    private final StringBuilder text = new StringBuilder();
    private int group;
    private long taken;
    private double place;
    private @Nullable Object low;
    private @Nullable Object high;

    void take(Batch rows) {
      running.check();
      Vector.OfInt of = (Vector.OfInt) rows.vectors().get(0);
      for (int row = 0; row < rows.size(); row++) {
        while (group < of.values()[row]) {
          tell();
        }
        if (call.function() == Aggregate.Function.LISTAGG) {
          join(rows, row);
        } else {
          choose(rows, row);
        }
        taken++;
      }
    }

    Vector end() {
      while (group < groups) {
        tell();
      }
      return told.buildLast();
    }

    private void tell() {
      told.add(taken == 0 ? null : result());
      text.setLength(0);
      taken = 0;
      group++;
    }

    private Object result() {
      if (call.function() == Aggregate.Function.LISTAGG) {
        running.take(text.length());
        return text.toString();
      }
      if (call.function() == Aggregate.Function.PERCENTILE_DISC) {
        return Objects.requireNonNull(low);
      }
      double one = number(low);
      double other = number(high);
      return low == high ? one : one + (other - one) * (place - Math.floor(place));
    }

    private void join(Batch rows, int row) {
      boolean separates = types.size() - call.order().size() > 1;
      Object separator = separates ? value(rows, 1, row) : null;
      if (taken > 0 && separator != null) {
        text.append(separator);
      }
      text.append(value(rows, 0, row));
    }

    /** Remembers a value that is at the place of the percentile, or beside it. */
    private void choose(Batch rows, int row) {
      if (taken == 0) {
        double fraction = fraction(value(rows, 0, row));
        place =
            call.function() == Aggregate.Function.PERCENTILE_DISC
                ? Math.max(0, Math.ceil(fraction * counts[group]) - 1)
                : fraction * (counts[group] - 1);
      }
      if (taken == (long) Math.floor(place)) {
        low = value(rows, decides(), row);
        high = low;
      } else if (taken == (long) Math.ceil(place)) {
        high = value(rows, decides(), row);
      }
    }

    private @Nullable Object value(Batch rows, int argument, int row) {
      return rows.vectors().get(argument + 1).get(row);
    }
  }

  private static double fraction(@Nullable Object value) {
    double fraction = value instanceof Number number ? number.doubleValue() : Double.NaN;
    if (!(fraction >= 0 && fraction <= 1)) {
      throw new InvalidInputException(
          "A percentile takes a fraction from 0 to 1, not %s.".formatted(value));
    }
    return fraction;
  }

  private static double number(@Nullable Object value) {
    if (value instanceof Number number) {
      return number.doubleValue();
    }
    throw new InvalidInputException(
        "PERCENTILE_CONT takes numbers; PERCENTILE_DISC takes every type that has an order.");
  }

  @Override
  public void close() {
    kept.release();
    if (runs != null) {
      runs.close();
    }
  }
}
