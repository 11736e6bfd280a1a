package org.ysteron.expr;

import java.util.List;

/**
 * The element of a list at a position, the first of which is 1, or the value of a key of a map. A
 * position that a list does not have is an error; a key that a map does not have is null.
 */
public record Element(Expression of, Expression key) implements Expression {

  @Override
  public List<Expression> parts() {
    return List.of(of, key);
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return new Element(parts.get(0), parts.get(1));
  }

  @Override
  public String toString() {
    return SqlForm.operand(of) + "[" + key + "]";
  }
}
