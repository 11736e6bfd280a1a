package org.ysteron.expr;

import java.util.List;
import org.ysteron.data.Type;

/**
 * CAST: a value as one of another type. Numbers are rounded half away from zero to fewer decimal
 * places and cut off towards zero to whole numbers; instants meet dates, times and timestamps in
 * UTC; text is read as {@link org.ysteron.data.ValueText} says. What does not fit is an error.
 */
public record Cast(Expression value, Type type) implements Expression {

  @Override
  public List<Expression> parts() {
    return List.of(value);
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return new Cast(parts.get(0), type);
  }

  @Override
  public String toString() {
    return "CAST(" + value + " AS " + type + ")";
  }
}
