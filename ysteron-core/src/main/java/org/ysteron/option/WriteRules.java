package org.ysteron.option;

/**
 * How incoming rows are matched with the columns of a table.
 *
 * @param drift what happens when columns differ
 * @param ignoreCase whether case is ignored in names
 * @param skipsRejected whether rows whose keys already exist, or that do not fit any more at the
 *     commit, are skipped; otherwise they reject the whole commit
 */
public record WriteRules(Drift drift, boolean ignoreCase, boolean skipsRejected) {
  public static final WriteRules STRICT = new WriteRules(Drift.STRICT, false, false);

  /** The table's own rules. */
  public static WriteRules of(TableSettings settings) {
    return new WriteRules(
        Drift.of(settings.word(TableSettings.DRIFT)),
        settings.flag(TableSettings.IGNORE_CASE),
        false);
  }

  /** These rules with another drift rule. */
  public WriteRules with(Drift other) {
    return new WriteRules(other, ignoreCase, skipsRejected);
  }

  /** These rules, ignoring case in names. */
  public WriteRules ignoringCase() {
    return new WriteRules(drift, true, skipsRejected);
  }

  /**
   * These rules, but rows are skipped whose keys already exist, or that do not fit any more at the
   * commit. Of several rows with one key the first is used; above four million rows, the first one
   * in the data files.
   */
  public WriteRules skippingRejected() {
    return new WriteRules(drift, ignoreCase, true);
  }

  /** Whether rows need exactly the table's column names. */
  public boolean isPlain() {
    return drift == Drift.STRICT && !ignoreCase;
  }

  /** Whether rows can add columns or widen types. */
  public boolean grows() {
    return drift.grows();
  }
}
