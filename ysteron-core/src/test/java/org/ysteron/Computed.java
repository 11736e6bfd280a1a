package org.ysteron;

import java.time.Instant;
import org.ysteron.expr.Expression;

/** Expressions for tests that must be computed each time and give what they are made for. */
final class Computed {
  private Computed() {}

  /** A value that no program can know before its statement begins, and yet is known. */
  static Expression later(Object value) {
    return Expression.when(Expression.now().greaterThan(Instant.EPOCH), value)
        .otherwise(Expression.literal(null));
  }
}
