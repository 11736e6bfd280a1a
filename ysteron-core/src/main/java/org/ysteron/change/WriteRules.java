package org.ysteron.change;

import org.ysteron.table.TableSettings;

/**
 * How the columns of incoming rows meet those of a table.
 *
 * @param drift what happens when they are not the same
 * @param anyCase whether names that differ by case only are the same
 */
public record WriteRules(Drift drift, boolean anyCase) {
  public static final WriteRules STRICT = new WriteRules(Drift.STRICT, false);

  /** A table's own. */
  public static WriteRules of(TableSettings settings) {
    return new WriteRules(
        Drift.of(settings.word(TableSettings.DRIFT)), settings.truth(TableSettings.ANY_CASE));
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
