package org.ysteron.internal.filter;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.typing.Costs;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/** A condition that is computed for each row, with what ranges can say of it. */
final class BoundComputed implements BoundTest {
  private final TypedTest test;
  private final BoundTest pruning;
  private final BoundTest sure;
  private final int cost;
  private final Idle<Selecting> selecting;
  private final Idle<Corners> corners = new Idle<>(Corners::new);

  /**
   * A computed condition.
   *
   * @param test folded, without what is not pushed down
   * @param pruning passed by all rows that can pass or fail
   */
  BoundComputed(TypedTest test, BoundTest pruning) {
    this(test, pruning, null);
  }

  /** {@code sure}: passed by the rows that pass; null when that is not known. */
  BoundComputed(TypedTest test, BoundTest pruning, BoundTest sure) {
    this.test = test;
    this.selecting = new Idle<>(() -> new Selecting(test));
    this.pruning = pruning;
    this.sure = sure;
    int own = Costs.of(test);
    this.cost = own < 0 ? FAILING : own;
  }

  BoundTest pruning() {
    return pruning;
  }

  @Override
  public boolean isNeverTrue() {
    return pruning.isNeverTrue() || (sure != null && sure.isNeverTrue());
  }

  @Override
  public int cost() {
    return cost;
  }

  @Override
  public int select(Batch batch, int[] rows, int count, int[] to) {
    Selecting own = selecting.take();
    int kept = own.select(batch, rows, count, to);
    selecting.give(own);
    return kept;
  }

  @Override
  public Verdict test(Ranges ranges) {
    if (pruning.test(ranges) == Verdict.NONE) {
      return Verdict.NONE;
    }
    if (sure != null && sure.test(ranges) == Verdict.ALL) {
      return Verdict.ALL;
    }
    Corners at = corners.take();
    Verdict told = Spans.test(test, ranges, at);
    corners.give(at);
    return told;
  }

  @Override
  public void collect(Map<Integer, Field> columns) {
    test.values().forEach(value -> collect(value, columns));
    pruning.collect(columns);
  }

  private static void collect(Typed typed, Map<Integer, Field> columns) {
    if (typed instanceof Typed.OfColumn column) {
      columns.put(column.field().id(), column.field());
    }
    List<Typed> parts = typed.parts();
    parts.forEach(part -> collect(part, columns));
  }

  @Override
  public boolean asksForValues() {
    return pruning.asksForValues();
  }

  @Override
  public boolean mayHold(HeldValues points) {
    return pruning.mayHold(points);
  }

  /** What one thread uses at a time, kept for the next. Thread-safe. */
  private static final class Idle<T> {
    private final Supplier<T> make;
    private final Deque<T> idle = new ArrayDeque<>();

    Idle(Supplier<T> make) {
      this.make = make;
    }

    T take() {
      synchronized (this) {
        if (!idle.isEmpty()) {
          return idle.pop();
        }
      }
      return make.get();
    }

    synchronized void give(T one) {
      idle.push(one);
    }
  }
}
