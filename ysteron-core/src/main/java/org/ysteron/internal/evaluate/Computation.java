package org.ysteron.internal.evaluate;

import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Compiler;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.compute.Kernel;
import org.ysteron.internal.compute.Rows;
import org.ysteron.internal.typing.Typed;

/** A typed expression, ready to be computed. For one thread. */
public final class Computation {
  private final Kernel kernel;

  public Computation(Typed typed) {
    this.kernel = Compiler.kernel(Folding.fold(typed));
  }

  /** The type of the values. */
  public Type type() {
    return kernel.type();
  }

  /**
   * The values for all rows of a batch.
   *
   * @throws ComputeException when one cannot be computed
   */
  public Vector values(Batch table) {
    return kernel.eval(Rows.of(table)).vector(kernel.type());
  }

  /**
   * The values for some rows of a batch, good until it is asked again.
   *
   * @param rows the positions of the rows, ascending; null for the first {@code count}
   * @throws ComputeException when one cannot be computed
   */
  public Held held(Batch table, int[] rows, int count) {
    Rows all = Rows.of(table);
    return kernel.eval(rows == null && count == table.size() ? all : some(all, rows, count));
  }

  private static Rows some(Rows all, int[] rows, int count) {
    return all.only(rows == null ? all.selected() : rows, count);
  }

  /**
   * The values for rows of a table and of a source, side by side.
   *
   * @param size how many rows there are, also when there is neither
   */
  public Vector values(Optional<Batch> table, Optional<Batch> source, int size) {
    return kernel.eval(Rows.of(table, source, size)).vector(kernel.type());
  }
}
