package org.ysteron.sql.keep;

import java.util.List;
import java.util.function.UnaryOperator;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.expr.Expression;
import org.ysteron.internal.read.Source;

/**
 * Rows that went to files by their keys, so that something can be done with one part after the
 * other; the files are gone when this is closed. For one thread.
 */
public final class Parted implements AutoCloseable {
  private final Running running;
  private final Spill spill;
  private final Keys keys;
  private boolean ended;
  private int[] parts = {};

  /**
   * Begins to take rows.
   *
   * @param by what rows that belong together have in common
   */
  public Parted(Schema columns, List<Expression> by, Running running) {
    this.running = running;
    this.spill = new Spill(columns, Spill.PARTS, running);
    Running uncounted = running.uncounted();
    List<Type> types = by.stream().map(one -> running.typed(one, columns).type()).toList();
    this.keys = new Keys(types, uncounted);
    keys.of(by, columns, uncounted);
  }

  /** Puts rows away. */
  public void add(SelectedBatch batch) {
    parts = parts.length < batch.count() ? new int[batch.count()] : parts;
    keys.parts(batch, parts, Spill.PARTS, running.depth());
    spill.add(batch, parts);
  }

  /** The rows of a part; there are {@link Spill#PARTS}. */
  public Step part(int part) {
    if (!ended) {
      ended = true;
      spill.end();
    }
    return spill.part(part);
  }

  /** What is made of each part, one after the other; {@code work}: what is done with a part. */
  public Source<SelectedBatch> each(UnaryOperator<Step> work) {
    return Chained.of(Spill.PARTS, part -> work.apply(part(part)).open(running.deeper()));
  }

  @Override
  public void close() {
    spill.close();
  }
}
