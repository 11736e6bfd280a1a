package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.IntStream;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.internal.read.Source;

/**
 * Rows that went to files by their keys, so that something is done with one part after the other.
 * For one thread.
 */
public final class Parted implements Source<SelectedBatch> {
  private final Running running;
  private final Spill spill;
  private final Keys keys;
  private final UnaryOperator<Step> work;
  private Source<SelectedBatch> rows;
  private boolean ended;
  private int next;
  private int[] parts = {};

  /**
   * Begins to take rows.
   *
   * @param by what rows that belong together have in common
   * @param work what is done with a part
   */
  public Parted(Schema columns, List<Expression> by, Running running, UnaryOperator<Step> work) {
    this.running = running;
    this.work = work;
    this.spill = new Spill(columns, Spill.PARTS, running);
    Running uncounted = running.uncounted();
    List<Type> types = by.stream().map(one -> running.typed(one, columns).type()).toList();
    this.keys = new Keys(types, uncounted);
    keys.of(by, columns, uncounted);
  }

  /** Columns by their numbers. */
  public static List<Expression> columns(Schema columns, Collection<Integer> numbers) {
    List<Expression> of = new ArrayList<>();
    for (int number : numbers) {
      Field column = columns.columns().get(number);
      of.add(new Column(Schema.path(List.of(column.name()))));
    }
    return of;
  }

  /** All columns. */
  public static List<Expression> columns(Schema columns) {
    return columns(columns, IntStream.range(0, columns.columns().size()).boxed().toList());
  }

  /** Puts rows away. */
  public void add(SelectedBatch batch) {
    parts = parts.length < batch.count() ? new int[batch.count()] : parts;
    keys.parts(batch, parts, Spill.PARTS, running.depth());
    spill.add(batch, parts);
  }

  /** The rows of a part; there are {@link Spill#PARTS}. */
  public Step part(int part) {
    end();
    return spill.part(part);
  }

  private void end() {
    if (!ended) {
      ended = true;
      spill.end();
    }
  }

  @Override
  public Optional<SelectedBatch> next() {
    end();
    while (true) {
      if (rows == null) {
        if (next == Spill.PARTS) {
          close();
          return Optional.empty();
        }
        rows = work.apply(spill.part(next++)).open(running.deeper());
      }
      Optional<SelectedBatch> batch = rows.next();
      if (batch.isPresent()) {
        return batch;
      }
      rows.close();
      rows = null;
    }
  }

  @Override
  public void close() {
    if (rows != null) {
      rows.close();
      rows = null;
    }
    next = Spill.PARTS;
    spill.close();
  }
}
