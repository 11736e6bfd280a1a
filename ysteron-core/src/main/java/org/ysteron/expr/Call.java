package org.ysteron.expr;

import java.util.List;
import org.ysteron.error.InvalidInputException;

/**
 * An operator or a function and what it is applied to.
 *
 * @param arguments as many as the operator takes
 */
public record Call(Operator operator, List<Expression> arguments) implements Expression {
  public Call {
    arguments = List.copyOf(arguments);
    if (!operator.takes(arguments.size())) {
      throw new InvalidInputException(
          "%s takes %s, not %d.".formatted(operator.sql(), operator.count(), arguments.size()));
    }
  }

  @Override
  public List<Expression> parts() {
    return arguments;
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return new Call(operator, parts);
  }

  @Override
  public String toString() {
    return SqlForm.of(this);
  }
}
