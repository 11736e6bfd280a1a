package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;

/**
 * The order of rows: numbers by value, NaN above all, text and other bytes by bytes (which for
 * UTF-8 is the order of code points), false before true.
 */
public final class Ordering {
  private Ordering() {}

  /**
   * One part of an order.
   *
   * @param column the number of the column
   */
  public record Order(int column, boolean descending, boolean nullsFirst) {}

  /** Compares two rows. */
  interface Comparing {
    int compare(int one, int other);
  }

  /** The positions of the rows in their order; equal ones stay as they are (merge sort). */
  public static int[] sorted(Batch batch, List<Order> orders, Running running) {
    int[] rows = Selected.between(0, batch.size());
    if (!orders.isEmpty()) {
      Order first = orders.get(0);
      Vector vector = batch.vectors().get(first.column());
      long[] begins = new long[batch.size()];
      boolean tellsAll = OrderWords.of(vector, first, begins);
      List<Comparing> others = new ArrayList<>();
      for (Order order : tellsAll ? orders.subList(1, orders.size()) : orders) {
        others.add(part(batch.vectors().get(order.column()), order));
      }
      Comparing[] all = others.toArray(Comparing[]::new);
      Comparing equal = (one, other) -> compare(all, one, other);
      new MergeSort(begins, equal, running).sort(rows);
    }
    return rows;
  }

  /** Compares a row of one batch with a row of another that has the same columns. */
  public static int compare(Batch a, int i, Batch b, int j, List<Order> orders) {
    for (Order order : orders) {
      Vector one = a.vectors().get(order.column());
      Vector other = b.vectors().get(order.column());
      int compared = compare(one, i, other, j, order);
      if (compared != 0) {
        return compared;
      }
    }
    return 0;
  }

  /** Compares two values of one type by the direction of an order. */
  public static int compare(Vector one, int i, Vector other, int j, Order order) {
    boolean first = one.isNull(i);
    boolean second = other.isNull(j);
    if (first || second) {
      int nullFirst = order.nullsFirst() ? -1 : 1;
      return first && second ? 0 : first ? nullFirst : -nullFirst;
    }
    return order.descending() ? compare(other, j, one, i) : compare(one, i, other, j);
  }

  private static int compare(Vector a, int i, Vector b, int j) {
    if (a instanceof Vector.OfLong one && b instanceof Vector.OfLong other) {
      return Long.compare(one.values()[i], other.values()[j]);
    }
    if (a instanceof Vector.OfInt one && b instanceof Vector.OfInt other) {
      return Integer.compare(one.values()[i], other.values()[j]);
    }
    if (a instanceof Vector.OfDouble one && b instanceof Vector.OfDouble other) {
      return Double.compare(one.values()[i] + 0.0, other.values()[j] + 0.0);
    }
    if (a instanceof Vector.OfFloat one && b instanceof Vector.OfFloat other) {
      return Float.compare(one.values()[i] + 0f, other.values()[j] + 0f);
    }
    if (a instanceof Vector.OfBoolean one && b instanceof Vector.OfBoolean other) {
      return Boolean.compare(one.values()[i], other.values()[j]);
    }
    if (a instanceof Vector.OfBytes one && b instanceof Vector.OfBytes other) {
      return Arrays.compareUnsigned(
          one.data(),
          one.starts()[i],
          one.starts()[i] + one.lengths()[i],
          other.data(),
          other.starts()[j],
          other.starts()[j] + other.lengths()[j]);
    }
    throw new InvalidInputException("Values of %s have no order.".formatted(a.type()));
  }

  /** Which rows of an order differ from the one before; the first one does. */
  public static boolean[] changes(Batch batch, List<Order> orders, int[] sorted) {
    List<Comparing> parts = new ArrayList<>();
    for (Order order : orders) {
      parts.add(part(batch.vectors().get(order.column()), order));
    }
    Comparing[] all = parts.toArray(Comparing[]::new);
    boolean[] changes = new boolean[sorted.length];
    for (int i = 0; i < sorted.length; i++) {
      changes[i] = i == 0 || compare(all, sorted[i - 1], sorted[i]) != 0;
    }
    return changes;
  }

  private static int compare(Comparing[] parts, int one, int other) {
    for (Comparing part : parts) {
      int order = part.compare(one, other);
      if (order != 0) {
        return order;
      }
    }
    return 0;
  }

  private static Comparing part(Vector vector, Order order) {
    Comparing values = values(vector);
    Comparing directed = order.descending() ? (one, other) -> values.compare(other, one) : values;
    if (vector.nulls() == null) {
      return directed;
    }
    int nullFirst = order.nullsFirst() ? -1 : 1;
    return (one, other) -> {
      boolean first = vector.isNull(one);
      boolean second = vector.isNull(other);
      if (first || second) {
        return first && second ? 0 : first ? nullFirst : -nullFirst;
      }
      return directed.compare(one, other);
    };
  }

  private static Comparing values(Vector vector) {
    if (vector instanceof Vector.OfLong of) {
      long[] values = of.values();
      return (one, other) -> Long.compare(values[one], values[other]);
    }
    if (vector instanceof Vector.OfInt of) {
      int[] values = of.values();
      return (one, other) -> Integer.compare(values[one], values[other]);
    }
    if (vector instanceof Vector.OfBoolean of) {
      boolean[] values = of.values();
      return (one, other) -> Boolean.compare(values[one], values[other]);
    }
    if (vector instanceof Vector.OfDouble of) {
      double[] values = of.values();
      return (one, other) -> Double.compare(values[one] + 0.0, values[other] + 0.0);
    }
    if (vector instanceof Vector.OfFloat of) {
      float[] values = of.values();
      return (one, other) -> Float.compare(values[one] + 0f, values[other] + 0f);
    }
    if (vector instanceof Vector.OfBytes of) {
      byte[] data = of.data();
      int[] starts = of.starts();
      int[] lengths = of.lengths();
      return (one, other) ->
          Arrays.compareUnsigned(
              data,
              starts[one],
              starts[one] + lengths[one],
              data,
              starts[other],
              starts[other] + lengths[other]);
    }
    Type type = vector.type();
    throw new InvalidInputException("Values of %s have no order.".formatted(type));
  }
}
