package org.ysteron.sql.run;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;

/** What one function of a window is for each row. For one thread. */
final class WindowValues {
  private static final int CHECK_EVERY = 256;

  private final Window window;
  private final Window.Call call;
  private final Batch rows;
  private final int[] sorted;
  private final boolean[] newPeers;
  private final Running running;
  private final VectorBuilder values;
  private final Held[] arguments;
  private final List<Type> argumentTypes;
  private final Set<Object> seen = new HashSet<>();

  WindowValues(
      Window window,
      Window.Call call,
      Batch rows,
      int[] sorted,
      boolean[] newPeers,
      Running running) {
    this.window = window;
    this.call = call;
    this.rows = rows;
    this.sorted = sorted;
    this.newPeers = newPeers;
    this.running = running;
    this.values = new VectorBuilder(call.type(), Math.max(1, rows.size()));
    boolean aggregates = call.function() == Window.Function.AGGREGATE;
    List<Expression> taken = aggregates ? call.aggregate().taken() : List.of();
    this.arguments = new Held[taken.size()];
    this.argumentTypes = new ArrayList<>();
    Schema columns = schema(rows);
    for (int a = 0; a < arguments.length; a++) {
      Computation argument = running.computation(taken.get(a), columns);
      argumentTypes.add(argument.type());
      arguments[a] =
          argument.held(
              new Batch(columns.struct(), rows.size(), rows.vectors()), null, rows.size());
    }
  }

  private static Schema schema(Batch rows) {
    List<Field> fields = new ArrayList<>();
    for (Vector vector : rows.vectors()) {
      fields.add(Field.of("c" + fields.size(), vector.type()));
    }
    return Schema.of(fields);
  }

  /** Ends a query that was cancelled, now and then. */
  private void check(int at) {
    if (at % CHECK_EVERY == 0) {
      running.check();
    }
  }

  /** Takes the rows of the next partition, by their places in the order. */
  void partition(int from, int to) {
    if (call.function() == Window.Function.AGGREGATE) {
      aggregates(from, to);
      return;
    }
    int firstPeer = from;
    long peers = 0;
    for (int at = from; at < to; at++) {
      check(at);
      if (at == from || newPeers[at]) {
        firstPeer = at;
        peers++;
      }
      values.add(value(from, to, at, firstPeer, peers));
    }
  }

  private Object value(int from, int to, int at, int firstPeer, long peers) {
    long count = (long) to - from;
    return switch (call.function()) {
      case ROW_NUMBER -> (long) at - from + 1;
      case RANK -> (long) firstPeer - from + 1;
      case DENSE_RANK -> peers;
      case PERCENT_RANK -> count == 1 ? 0.0 : (double) (firstPeer - from) / (count - 1);
      case CUME_DIST -> (double) (behindPeers(at, to) - from) / count;
      case NTILE -> tile(at - from, count, number(0, at));
      case LAG -> beside(from, to, at, -1);
      case LEAD -> beside(from, to, at, 1);
      case FIRST_VALUE -> inFrame(from, to, at, 0, true);
      case LAST_VALUE -> inFrame(from, to, at, 0, false);
      case NTH_VALUE -> inFrame(from, to, at, number(1, at) - 1, true);
      case AGGREGATE -> throw new IllegalStateException("computed for a whole partition");
    };
  }

  private int behindPeers(int at, int to) {
    int behind = at + 1;
    while (behind < to && !newPeers[behind]) {
      behind++;
    }
    return behind;
  }

  private int firstPeer(int from, int at) {
    int first = at;
    while (first > from && !newPeers[first]) {
      first--;
    }
    return first;
  }

  private Object at(int argument, int place) {
    return rows.vectors().get(call.of().get(argument)).get(sorted[place]);
  }

  private long number(int argument, int place) {
    Object value = at(argument, place);
    if (!(value instanceof Number number) || number.longValue() < 1) {
      throw new InvalidInputException(
          "%s takes a number above 0, not %s.".formatted(call.function(), value));
    }
    return number.longValue();
  }

  /** Tiles differ by one row at most; larger ones come first. */
  private static long tile(long row, long count, long tiles) {
    long size = count / tiles;
    long larger = count % tiles;
    return row < larger * (size + 1)
        ? row / (size + 1) + 1
        : larger + (row - larger * (size + 1)) / Math.max(1, size) + 1;
  }

  private Object beside(int from, int to, int at, int direction) {
    long distance = 1;
    if (call.of().size() > 1) {
      Object value = at(1, at);
      if (!(value instanceof Number number)) {
        return null;
      }
      distance = number.longValue();
    }
    long place = place(from, to, at, direction * distance);
    if (place >= from && place < to) {
      return at(0, (int) place);
    }
    return call.of().size() > 2 ? at(2, at) : null;
  }

  private int start(int from, int to, int at) {
    return switch (window.from().kind()) {
      case FIRST -> from;
      case LAST -> to;
      case CURRENT -> window.isRows() ? at : firstPeer(from, at);
      case BY_ROWS -> (int) Math.max(from, Math.min(to, at + window.from().distance()));
      case BY_VALUE -> byValue(from, to, at, window.from(), false);
    };
  }

  private int end(int from, int to, int at) {
    return switch (window.to().kind()) {
      case FIRST -> from;
      case LAST -> to;
      case CURRENT -> window.isRows() ? at + 1 : behindPeers(at, to);
      case BY_ROWS -> (int) Math.max(from, Math.min(to, at + window.to().distance() + 1));
      case BY_VALUE -> byValue(from, to, at, window.to(), true);
    };
  }

  /** The first row of a partition that is not before a value, or that is behind it. */
  private int byValue(int from, int to, int at, Window.Bound bound, boolean behind) {
    Vector keys = rows.vectors().get((int) bound.distance());
    Vector ends = rows.vectors().get(bound.end());
    Ordering.Order order = window.orders().get(0);
    int low = from;
    int high = to;
    while (low < high) {
      int middle = (low + high) >>> 1;
      int compared = Ordering.compare(keys, sorted[middle], ends, sorted[at], order);
      if (compared < 0 || (behind && compared == 0)) {
        low = middle + 1;
      } else {
        high = middle;
      }
    }
    return low;
  }

  private boolean isNull(int place) {
    return rows.vectors().get(call.of().get(0)).isNull(sorted[place]);
  }

  /** The place of a row so many behind another, of those that count; -1 when there is none. */
  private long place(int from, int to, int at, long steps) {
    if (!call.ignoresNulls()) {
      return at + steps;
    }
    long left = Math.abs(steps);
    int direction = steps < 0 ? -1 : 1;
    int place = at;
    while (left > 0) {
      place += direction;
      if (place < from || place >= to) {
        return -1;
      }
      left -= isNull(place) ? 0 : 1;
    }
    return place;
  }

  private Object inFrame(int from, int to, int at, long nth, boolean ofStart) {
    int start = start(from, to, at);
    int end = end(from, to, at);
    long place = ofStart ? place(start, end, start - 1, nth + 1) : place(start, end, end, -1);
    return place >= start && place < end ? at(0, (int) place) : null;
  }

  /**
   * Aggregates of frames that all end where the partition ends: each goes on with the one behind
   * it.
   */
  private void fromBehind(int from, int to) {
    Accumulator found = Accumulator.of(call.aggregate(), argumentTypes, running);
    found.room(1);
    seen.clear();
    Object[] results = new Object[to - from];
    int taken = to;
    for (int at = to - 1; at >= from; at--) {
      check(at);
      int start = Math.min(to, start(from, to, at));
      add(found, start, taken);
      taken = Math.min(taken, start);
      results[at - from] = found.results(0, 1).get(0);
    }
    for (Object result : results) {
      values.add(result);
    }
  }

  /** Aggregates of frames of which some rows do not count, each by itself. */
  private void withoutSome(int from, int to) {
    for (int at = from; at < to; at++) {
      check(at);
      int start = start(from, to, at);
      int end = Math.max(start, end(from, to, at));
      boolean group = window.excluded() != Window.Excluded.CURRENT;
      int outFrom = group ? firstPeer(from, at) : at;
      int outTo = group ? behindPeers(at, to) : at + 1;
      Accumulator found = Accumulator.of(call.aggregate(), argumentTypes, running);
      found.room(1);
      seen.clear();
      add(found, start, Math.min(end, outFrom));
      if (window.excluded() == Window.Excluded.TIES && at >= start && at < end) {
        add(found, at, at + 1);
      }
      add(found, Math.max(start, outTo), end);
      values.add(found.results(0, 1).get(0));
    }
  }

  /** Aggregates of frames; one that begins where the last one began goes on. */
  private void aggregates(int from, int to) {
    if (window.excluded() != Window.Excluded.NONE) {
      withoutSome(from, to);
      return;
    }
    boolean endsBehind =
        window.to().kind() == Window.Bound.Kind.LAST
            && window.from().kind() != Window.Bound.Kind.FIRST;
    if (endsBehind && Accumulator.of(call.aggregate(), argumentTypes, running).goesOn()) {
      fromBehind(from, to);
      return;
    }
    Accumulator found = null;
    int begun = -1;
    int taken = -1;
    for (int at = from; at < to; at++) {
      check(at);
      int start = start(from, to, at);
      int end = Math.max(start, end(from, to, at));
      boolean same = found != null && start == begun && end == taken;
      if (found == null || start != begun || end < taken || (!same && !found.goesOn())) {
        found = Accumulator.of(call.aggregate(), argumentTypes, running);
        found.room(1);
        seen.clear();
        begun = start;
        taken = start;
      }
      add(found, taken, end);
      taken = Math.max(taken, end);
      values.add(found.results(0, 1).get(0));
    }
  }

  private void add(Accumulator found, int start, int end) {
    int[] at = Arrays.copyOfRange(sorted, start, Math.max(start, end));
    int count = at.length;
    if (call.aggregate().isDistinct()) {
      count = 0;
      Vector vector = rows.vectors().get(call.of().get(0));
      for (int row : Arrays.copyOf(at, at.length)) {
        Object value = vector.get(row);
        if (value == null || seen.add(alike(value))) {
          at[count++] = row;
        }
      }
    }
    if (count > 0) {
      found.add(new int[count], at, count, arguments);
    }
  }

  /** A value that is equal to others as values of SQL are. */
  private static Object alike(Object value) {
    if (value instanceof byte[] bytes) {
      return ByteBuffer.wrap(bytes);
    }
    if (value instanceof Double number) {
      return number + 0.0;
    }
    return value instanceof Float number ? (Object) (number + 0f) : value;
  }

  /** The values in the order of the rows. */
  Vector all() {
    return Gather.values(values.buildLast(), WindowStep.inverse(sorted));
  }
}
