package org.ysteron.change;

import org.ysteron.table.TableProperties;

/**
 * How the columns of incoming rows meet those of a table.
 *
 * @param drift what happens when they are not the same
 * @param anyCase whether names that differ by case only are the same
 */
public record WriteRules(Drift drift, boolean anyCase) {
  public static final WriteRules STRICT = new WriteRules(Drift.STRICT, false);

  /** A table's own. */
  public static WriteRules of(TableProperties properties) {
    return new WriteRules(
        Drift.ofCode(properties.get(TableProperties.DRIFT)),
        properties.get(TableProperties.ANY_CASE) != 0);
  }

  /** These rules with another answer to drift. */
  public WriteRules with(Drift other) {
    return new WriteRules(other, anyCase);
  }

  /** These rules for names of any case. */
  public WriteRules inAnyCase() {
    return new WriteRules(drift, true);
  }

  boolean isPlain() {
    return drift == Drift.STRICT && !anyCase;
  }
}
