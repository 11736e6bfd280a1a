package org.ysteron.expr;

import java.util.List;

/** A part of a date or time, or its beginning or end. */
public record TimePart(Kind kind, TimeUnit unit, Expression of) implements Expression {

  /** What is taken of it. */
  public enum Kind {
    /** The number of its unit, such as its month; SECOND with microseconds. */
    EXTRACT,
    /** The beginning of its unit. */
    FLOOR,
    /** The beginning of the next unit, or the time itself if it is one. */
    CEIL
  }

  @Override
  public List<Expression> parts() {
    return List.of(of);
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return new TimePart(kind, unit, parts.get(0));
  }

  @Override
  public String toString() {
    return kind == Kind.EXTRACT
        ? "EXTRACT(" + unit + " FROM " + of + ")"
        : kind + "(" + SqlForm.operand(of) + " TO " + unit + ")";
  }
}
