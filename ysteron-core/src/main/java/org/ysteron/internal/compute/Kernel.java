package org.ysteron.internal.compute;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.bytes.Wide;

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

  /** Whether a whole or exact number is in the range of the type. */
  final boolean fits(Wide number) {
    if (type instanceof Type.Decimal decimal) {
      return number.fits(decimal.precision());
    }
    return number.isShort() && (type != Types.INTEGER || number.low == (int) number.low);
  }

  static ComputeException failure(int row, String message) {
    return new ComputeException(row, message);
  }
}
