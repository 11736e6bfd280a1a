package org.ysteron.sql.window;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Ordering;

/**
 * A window: rows with the same keys, in an order, and a frame around each.
 *
 * @param keys the numbers of the columns that rows of a partition share
 * @param isRows whether the frame counts rows; else rows that are equal in the order belong
 *     together
 * @param excluded which rows of a frame do not count
 */
public record Window(
    List<Integer> keys,
    List<Ordering.Order> orders,
    boolean isRows,
    Bound from,
    Bound to,
    Excluded excluded,
    List<Call> calls) {

  /** The order that brings rows of a partition together. */
  List<Ordering.Order> keyOrders() {
    return keys.stream().map(key -> new Ordering.Order(key, false, false)).toList();
  }

  /** The order of rows by their partition, and in it. */
  List<Ordering.Order> allOrders() {
    List<Ordering.Order> all = new ArrayList<>(keyOrders());
    all.addAll(orders);
    return all;
  }

  /**
   * Where a frame begins or ends.
   *
   * @param distance so many rows before or behind the current one, for BY_ROWS; for BY_VALUE the
   *     number of the column that is ordered
   * @param end the number of the column that says up to which value, for BY_VALUE
   */
  public record Bound(Kind kind, long distance, int end) {
    /** Kinds of bounds. */
    public enum Kind {
      FIRST,
      CURRENT,
      LAST,
      BY_ROWS,
      BY_VALUE
    }
  }

  /** Which rows of a frame do not count: those that are equal in the order are a group. */
  public enum Excluded {
    NONE,
    CURRENT,
    GROUP,
    /** The group but for the current row. */
    TIES
  }

  /** Functions of windows that are no aggregates. */
  public enum Function {
    ROW_NUMBER,
    RANK,
    DENSE_RANK,
    PERCENT_RANK,
    CUME_DIST,
    NTILE,
    LAG,
    LEAD,
    FIRST_VALUE,
    LAST_VALUE,
    NTH_VALUE,
    AGGREGATE
  }

  /**
   * What is computed for each row.
   *
   * @param of the numbers of the columns that it takes
   * @param aggregate the aggregate; it stands on the same columns
   * @param ignoresNulls whether rows are passed over whose value is null
   */
  public record Call(
      Function function, List<Integer> of, Aggregate aggregate, boolean ignoresNulls, Type type) {}
}
