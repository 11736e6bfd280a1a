package org.ysteron.option;

import org.ysteron.expr.Condition;
import org.ysteron.internal.text.SqlNames;

/**
 * A condition that is false for no row of a table.
 *
 * @param name its name in its table
 */
public record Check(String name, Condition condition) {

  /** As SQL writes it. */
  @Override
  public String toString() {
    return "CONSTRAINT " + SqlNames.of(name) + " CHECK (" + condition + ")";
  }
}
