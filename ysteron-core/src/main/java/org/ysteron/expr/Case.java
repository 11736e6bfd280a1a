package org.ysteron.expr;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;

/**
 * CASE: the value of the first condition that is true. Values of other conditions are not computed.
 *
 * @param otherwise the value where no condition is true; NULL unless it is said
 */
public record Case(List<Condition> conditions, List<Expression> values, Expression otherwise)
    implements Expression {
  static final Case EMPTY = new Case(List.of(), List.of(), new Literal(null));

  public Case {
    conditions = List.copyOf(conditions);
    values = List.copyOf(values);
    if (conditions.size() != values.size()) {
      throw new InvalidInputException("A CASE has one value for each condition.");
    }
  }

  /** The same with WHEN … THEN … behind the others. */
  public Case when(Condition condition, @Nullable Object value) {
    List<Condition> more = new ArrayList<>(conditions);
    more.add(condition);
    List<Expression> then = new ArrayList<>(values);
    then.add(Literal.orExpression(value));
    return new Case(more, then, otherwise);
  }

  /** The same with ELSE. */
  public Case otherwise(@Nullable Object value) {
    return new Case(conditions, values, Literal.orExpression(value));
  }

  @Override
  public List<Expression> parts() {
    List<Expression> parts = new ArrayList<>(conditions);
    parts.addAll(values);
    parts.add(otherwise);
    return parts;
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    int count = conditions.size();
    return new Case(
        parts.subList(0, count).stream().map(Condition.class::cast).toList(),
        parts.subList(count, 2 * count),
        parts.get(2 * count));
  }

  @Override
  public String toString() {
    StringBuilder sql = new StringBuilder("CASE");
    for (int i = 0; i < values.size(); i++) {
      sql.append(" WHEN ").append(conditions.get(i)).append(" THEN ").append(values.get(i));
    }
    if (!otherwise.equals(new Literal(null))) {
      sql.append(" ELSE ").append(otherwise);
    }
    return sql.append(" END").toString();
  }
}
