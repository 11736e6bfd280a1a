package org.ysteron.option;

/**
 * How the columns of incoming rows meet those of a table.
 *
 * @param drift what happens when they are not the same
 * @param ignoreCase whether names that differ by case only are the same
 * @param skipsRejected whether of rows that were taken, and whose keys are there already or that do
 *     not fit any more when they are committed, only those are refused; else the whole commit is
 */
public record WriteRules(Drift drift, boolean ignoreCase, boolean skipsRejected) {
  public static final WriteRules STRICT = new WriteRules(Drift.STRICT, false, false);

  /** A table's own. */
  public static WriteRules of(TableSettings settings) {
    return new WriteRules(
        Drift.of(settings.word(TableSettings.DRIFT)),
        settings.flag(TableSettings.IGNORE_CASE),
        false);
  }

  /** These rules with another answer to drift. */
  public WriteRules with(Drift other) {
    return new WriteRules(other, ignoreCase, skipsRejected);
  }

  /** These rules for names of any case. */
  public WriteRules ignoringCase() {
    return new WriteRules(drift, true, skipsRejected);
  }

  /**
   * These rules, but rows are skipped whose keys exist already, or that do not fit any more when
   * they are committed. Of rows with one key the first is taken; of more than four million rows,
   * the one that comes first where they are written.
   */
  public WriteRules skippingRejected() {
    return new WriteRules(drift, ignoreCase, true);
  }

  /** Whether rows have the table's columns by their very names, or are refused. */
  public boolean isPlain() {
    return drift == Drift.STRICT && !ignoreCase;
  }

  /** Whether rows can ask the table for more columns, or wider ones. */
  public boolean grows() {
    return drift.grows();
  }
}
