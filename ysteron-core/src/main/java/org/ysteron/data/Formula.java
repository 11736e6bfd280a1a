package org.ysteron.data;

/**
 * A value that is computed and not given, such as a default that reads CURRENT_TIMESTAMP. The only
 * kind is {@code org.ysteron.expr.Expression}; this interface stands for it in schemas.
 */
public interface Formula {
  /** The formula as SQL. */
  @Override
  String toString();
}
