package org.ysteron.sql.run;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Running;

/** What one function of a window is for each row. For one thread. */
final class WindowValues {
  private final Window window;
  private final Window.Call call;
  private final Batch rows;
  private final int[] sorted;
  private final boolean[] newPeers;
  private final Running running;
  private final VectorBuilder values;
  private final Optional<Held> argument;
  private final Type argumentType;

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
    this.argumentType =
        call.of().isEmpty() ? call.type() : rows.vectors().get(call.of().get(0)).type();
    this.argument =
        call.of().isEmpty() || call.function() != Window.Function.AGGREGATE
            ? Optional.empty()
            : Optional.of(held(rows.vectors().get(call.of().get(0)), running));
  }

  private static Held held(Vector vector, Running running) {
    Schema one = Schema.of(Field.of("c0", vector.type()));
    Computation column = running.computation(new Column("c0"), one);
    Batch batch = new Batch(one.struct(), vector.size(), List.of(vector));
    return column.held(batch, null, vector.size());
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
    long place = at + direction * distance;
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
    };
  }

  private int end(int from, int to, int at) {
    return switch (window.to().kind()) {
      case FIRST -> from;
      case LAST -> to;
      case CURRENT -> window.isRows() ? at + 1 : behindPeers(at, to);
      case BY_ROWS -> (int) Math.max(from, Math.min(to, at + window.to().distance() + 1));
    };
  }

  private Object inFrame(int from, int to, int at, long nth, boolean ofStart) {
    int start = start(from, to, at);
    int end = end(from, to, at);
    long place = ofStart ? start + nth : end - 1;
    return place >= start && place < end ? at(0, (int) place) : null;
  }

  /** Aggregates of frames; one that begins where the last one began goes on. */
  private void aggregates(int from, int to) {
    Accumulator found = null;
    int begun = -1;
    int taken = -1;
    int group = 0;
    for (int at = from; at < to; at++) {
      int start = start(from, to, at);
      int end = end(from, to, at);
      if (found == null || start != begun || end < taken) {
        found = Accumulator.of(call.aggregate(), argumentType, running);
        found.room(1);
        begun = start;
        taken = start;
      }
      add(found, group, taken, end);
      taken = Math.max(taken, end);
      values.add(found.results(group, 1).get(0));
    }
  }

  private void add(Accumulator found, int group, int start, int end) {
    if (end <= start) {
      return;
    }
    int count = end - start;
    int[] groups = new int[count];
    Arrays.fill(groups, group);
    int[] at = Arrays.copyOfRange(sorted, start, end);
    found.add(groups, at, count, argument.orElse(null));
  }

  /** The values in the order of the rows. */
  Vector all() {
    return Gather.values(values.buildLast(), WindowStep.inverse(sorted));
  }
}
