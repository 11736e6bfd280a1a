package org.ysteron.internal.compute;

import java.util.Arrays;
import org.ysteron.data.Type;

/** The order of values that are not null: NaN equals itself and is last, -0.0 equals 0.0. */
final class Comparing {
  private Comparing() {}

  /** Compares two values of types that are held alike, exact numbers at the same scale. */
  static int compare(Held one, int i, Held other, int j, Type type) {
    return switch (Held.form(type)) {
      case LONGS -> {
        long x = one.longs[i];
        long y = other.longs[j];
        if (one.highs == null && other.highs == null) {
          yield Long.compare(x, y);
        }
        int order =
            Long.compare(
                one.highs == null ? x >> 63 : one.highs[i],
                other.highs == null ? y >> 63 : other.highs[j]);
        yield order != 0 ? order : Long.compareUnsigned(x, y);
      }
      case DOUBLES -> compare(one.doubles[i], other.doubles[j]);
      case BYTES ->
          Arrays.compareUnsigned(
              one.data,
              one.starts[i],
              one.starts[i] + one.lengths[i],
              other.data,
              other.starts[j],
              other.starts[j] + other.lengths[j]);
      case NESTED -> throw new IllegalStateException("nested values do not compare");
    };
  }

  static int compare(double x, double y) {
    return x == y ? 0 : Double.compare(x, y);
  }
}
