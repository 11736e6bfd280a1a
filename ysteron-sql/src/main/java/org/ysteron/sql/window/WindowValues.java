package org.ysteron.sql.window;

import java.nio.ByteBuffer;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;
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
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Pages;
import org.ysteron.sql.keep.Running;

/** What one function of a window is for one row after the other, in its order. For one thread. */
final class WindowValues implements AutoCloseable {
  private static final int CHECK_EVERY = 256;
  private static final long OF_SEEN = 64;

  private final Window window;
  private final Window.Call call;
  private final WindowRows rows;
  private final Schema columns;
  private final Running running;
  private final Running ofSeen;
  private final Frames frames;
  private final List<Expression> taken;
  private final List<Type> argumentTypes;
  private final Set<Object> seen = new HashSet<>();
  private final boolean fromBehind;
  private long peers;
  private @Nullable Accumulator found;
  private boolean takesBack;
  private int begun;
  private int ended;
  private @Nullable Object result;
  private @Nullable Vector behind;
  private @Nullable Pages behindInFiles;

  /** {@code columns}: of the rows. */
  WindowValues(Window window, Window.Call call, WindowRows rows, Schema columns, Running running) {
    this.window = window;
    this.call = call;
    this.rows = rows;
    this.columns = columns;
    this.running = running;
    this.ofSeen = running.keeping("different values of a window");
    this.frames = new Frames(window, rows);
    boolean aggregates = call.function() == Window.Function.AGGREGATE;
    this.taken = aggregates ? call.aggregate().taken() : List.of();
    this.argumentTypes = taken.stream().map(one -> running.typed(one, columns).type()).toList();
    this.fromBehind =
        aggregates
            && window.excluded() == Window.Excluded.NONE
            && window.to().kind() == Window.Bound.Kind.LAST
            && window.from().kind() != Window.Bound.Kind.FIRST
            && accumulator().goesOn();
  }

  /** What it is for the rows of a page, which are asked for one page after the other. */
  Vector of(WindowRows.Page page) {
    if (fromBehind) {
      return ofBehind(page);
    }
    VectorBuilder values = new VectorBuilder(call.type(), Math.max(1, page.to() - page.from()));
    for (int at = page.from(); at < page.to(); at++) {
      check(at);
      frames.to(at);
      if (at == frames.from()) {
        peers = 0;
        end();
        found = null;
      }
      peers += at == frames.firstPeer() ? 1 : 0;
      values.add(value(at));
    }
    return values.buildLast();
  }

  /** Ends a query that was cancelled, now and then. */
  private void check(int at) {
    if (at % CHECK_EVERY == 0) {
      running.check();
    }
  }

  private @Nullable Object value(int at) {
    long count = (long) frames.to() - frames.from();
    long before = (long) at - frames.from();
    long beforePeers = (long) frames.firstPeer() - frames.from();
    return switch (call.function()) {
      case ROW_NUMBER -> before + 1;
      case RANK -> beforePeers + 1;
      case DENSE_RANK -> peers;
      case PERCENT_RANK -> count == 1 ? 0.0 : (double) beforePeers / (count - 1);
      case CUME_DIST -> (double) (frames.behindPeers() - frames.from()) / count;
      case NTILE -> tile(before, count, number(0, at));
      case LAG -> beside(at, -1);
      case LEAD -> beside(at, 1);
      case FIRST_VALUE -> inFrame(0, true);
      case LAST_VALUE -> inFrame(0, false);
      case NTH_VALUE -> inFrame(number(1, at) - 1, true);
      case AGGREGATE -> window.excluded() == Window.Excluded.NONE ? aggregate() : withoutSome(at);
    };
  }

  private @Nullable Object at(int argument, int place) {
    WindowRows.Page page = rows.page(place);
    return page.vector(call.of().get(argument)).get(page.row(place));
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

  private @Nullable Object beside(int at, int direction) {
    long distance = 1;
    if (call.of().size() > 1) {
      Object value = at(1, at);
      if (!(value instanceof Number number)) {
        return null;
      }
      distance = number.longValue();
    }
    long place = place(frames.from(), frames.to(), at, direction * distance);
    if (place >= frames.from() && place < frames.to()) {
      return at(0, (int) place);
    }
    return call.of().size() > 2 ? at(2, at) : null;
  }

  private boolean isNull(int place) {
    WindowRows.Page page = rows.page(place);
    return page.vector(call.of().get(0)).isNull(page.row(place));
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

  private @Nullable Object inFrame(long nth, boolean ofStart) {
    int start = frames.start();
    int end = frames.end();
    long place = ofStart ? place(start, end, start - 1, nth + 1) : place(start, end, end, -1);
    return place >= start && place < end ? at(0, (int) place) : null;
  }

  private Accumulator accumulator() {
    Accumulator made = Accumulator.of(call.aggregate(), argumentTypes, running);
    made.room(1);
    return made;
  }

  private Accumulator begin() {
    end();
    Accumulator made = accumulator();
    takesBack = made.takesBack() && !call.aggregate().isDistinct();
    found = made;
    return made;
  }

  /**
   * The aggregate of a frame: one that begins where the last one began goes on, and of one that
   * moves both ways what is no longer in it is taken back, where that is exact.
   */
  private @Nullable Object aggregate() {
    int start = frames.start();
    int end = Math.max(start, frames.end());
    Accumulator known = found;
    if (known != null && start == begun && end == ended) {
      return result;
    }
    if (known == null || start < begun || start > ended || end < ended || !known.goesOn()) {
      known = null;
    } else if (start > begun && takesBack && start - begun <= end - start) {
      takeBack(known, begun, start);
    } else if (start > begun) {
      known = null;
    }
    if (known == null) {
      known = begin();
      ended = start;
    }
    begun = start;
    add(known, ended, end);
    ended = end;
    result = known.results(0, 1).get(0);
    return result;
  }

  /** The aggregate of a frame of which some rows do not count. */
  private @Nullable Object withoutSome(int at) {
    int start = frames.start();
    int end = Math.max(start, frames.end());
    boolean group = window.excluded() != Window.Excluded.CURRENT;
    int outFrom = group ? frames.firstPeer() : at;
    int outTo = group ? frames.behindPeers() : at + 1;
    Accumulator known = begin();
    add(known, start, Math.min(end, outFrom));
    if (window.excluded() == Window.Excluded.TIES && at >= start && at < end) {
      add(known, at, at + 1);
    }
    add(known, Math.max(start, outTo), end);
    return known.results(0, 1).get(0);
  }

  /**
   * Frames that all end where the partition ends: the aggregate of each goes on with the one behind
   * it, so they are computed from the last row on before the first one is told.
   */
  private Vector ofBehind(WindowRows.Page page) {
    if (behind == null && behindInFiles == null) {
      readFromBehind();
    }
    if (behindInFiles == null) {
      return Objects.requireNonNull(behind);
    }
    Kept kept = behindInFiles.read(rows.pageCount() - 1 - page.number());
    Vector values = kept.all().vectors().get(0);
    kept.release();
    return values;
  }

  private void readFromBehind() {
    Schema one = Schema.of(Field.of("c0", call.type()));
    int partition = -1;
    for (int number = rows.pageCount() - 1; number >= 0; number--) {
      WindowRows.Page page = rows.numbered(number);
      Object[] results = new Object[page.to() - page.from()];
      for (int at = page.to() - 1; at >= page.from(); at--) {
        check(at);
        frames.to(at);
        if (frames.from() != partition) {
          partition = frames.from();
          begin();
          begun = frames.to();
        }
        Accumulator known = Objects.requireNonNull(found);
        int start = Math.min(frames.to(), frames.start());
        if (start < begun) {
          add(known, start, begun);
          begun = start;
        }
        results[at - page.from()] = known.results(0, 1).get(0);
      }
      VectorBuilder values = new VectorBuilder(call.type(), Math.max(1, results.length));
      for (Object value : results) {
        values.add(value);
      }
      behind = values.buildLast();
      if (rows.areInFiles()) {
        behindInFiles =
            behindInFiles == null ? new Pages(one, running, "window functions") : behindInFiles;
        behindInFiles.add(new Batch(one.struct(), results.length, List.of(behind)));
      }
    }
  }

  /** What is done with some rows of a page. */
  private interface Taking {
    void take(int[] groups, int[] rows, int count, Held[] values);
  }

  private void add(Accumulator known, int start, int end) {
    each(start, end, known::add);
  }

  private void takeBack(Accumulator known, int start, int end) {
    each(start, end, known::takeBack);
  }

  private void each(int start, int end, Taking taking) {
    int from = start;
    while (from < end) {
      WindowRows.Page page = rows.page(from);
      int to = Math.min(end, page.to());
      int[] at = page.rows(from, to);
      int count = call.aggregate().isDistinct() ? firsts(page, at) : at.length;
      if (count > 0) {
        taking.take(
            new int[count], at, count, page.values().computeIfAbsent(this, me -> of(page.rows())));
      }
      from = to;
    }
  }

  private Held[] of(Batch page) {
    Held[] values = new Held[taken.size()];
    for (int v = 0; v < values.length; v++) {
      Computation value = running.computation(taken.get(v), columns);
      values[v] =
          value.held(new Batch(columns.struct(), page.size(), page.vectors()), null, page.size());
    }
    return values;
  }

  /** Leaves the rows whose value was not seen before, and returns how many they are. */
  private int firsts(WindowRows.Page page, int[] at) {
    Vector vector = page.vector(call.of().get(0));
    int count = 0;
    for (int row : at.clone()) {
      Object value = vector.get(row);
      if (value == null) {
        at[count++] = row;
      } else if (seen.add(alike(value))) {
        at[count++] = row;
        ofSeen.take(OF_SEEN);
      }
    }
    return count;
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

  private void end() {
    seen.clear();
    ofSeen.release();
    if (found != null) {
      found.close();
    }
  }

  @Override
  public void close() {
    end();
    if (behindInFiles != null) {
      behindInFiles.close();
    }
  }
}
