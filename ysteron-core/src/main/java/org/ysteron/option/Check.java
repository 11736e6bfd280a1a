package org.ysteron.option;

import org.ysteron.expr.Condition;
import org.ysteron.internal.text.SqlNames;

/**
 * A check constraint: a condition that must not be false for any row.
 *
 * @param name its name in its table
 */
public record Check(String name, Condition condition) {

  /** The constraint in SQL. */
  @Override
  public String toString() {
    return "CONSTRAINT " + SqlNames.of(name) + " CHECK (" + condition + ")";
  }
}
