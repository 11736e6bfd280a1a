package org.ysteron.internal.compute;

import org.ysteron.data.Type;

/**
 * Computes the values of an expression, vector in, vector out.
 *
 * <ul>
 *   <li>Values of rows that are not selected mean nothing, and never fail.
 *   <li>What it returns is good until it is asked again, and is not written to by others.
 *   <li>For one thread.
 * </ul>
 */
public abstract class Kernel {
  final Type type;
  final Held out = new Held();

  Kernel(Type type) {
    this.type = type;
  }

  /** The type of the values. */
  public final Type type() {
    return type;
  }

  /** The values for some rows. */
  public abstract Held eval(Rows rows);

  static ComputeException failure(int row, String message) {
    return new ComputeException(row, message);
  }
}
