package org.ysteron.expr;

import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;

/** Goes through the parts of expressions. */
final class Walk {
  private Walk() {}

  static Expression each(Expression of, UnaryOperator<Expression> change) {
    List<Expression> parts = of.parts();
    List<Expression> changed = new ArrayList<>(parts.size());
    boolean same = true;
    for (Expression part : parts) {
      Expression other = each(part, change);
      same &= other == part;
      changed.add(other);
    }
    return change.apply(same ? of : of.withParts(changed));
  }
}
