package org.ysteron.expr;

import java.util.List;
import org.ysteron.internal.text.SqlNames;

/** A field of a struct that is computed; those of a column are columns, by their path. */
public record FieldOf(Expression of, String name) implements Expression {

  @Override
  public List<Expression> parts() {
    return List.of(of);
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return new FieldOf(parts.get(0), name);
  }

  @Override
  public String toString() {
    return SqlForm.operand(of) + "." + SqlNames.of(name);
  }
}
