package org.ysteron.error;

/** A lake, or something in it, does not exist. Nothing was changed. */
public final class NotFoundException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final Kind kind;
  private final String name;

  /** What does not exist. */
  public enum Kind {
    LAKE,
    TABLE,
    /** A version of a table. */
    VERSION,
    /** An entry of the ledger. */
    ENTRY,
    COMMIT,
    /** A column, a field of one, or a column of a merge source. */
    COLUMN,
    /** A check constraint. */
    CHECK,
    BOOKMARK,
    POSITION,
    SETTING,
    /** A row with a serial, or any row that a condition selects. */
    ROW,
    /** A key of the leftovers column, or that column. */
    LEFTOVERS,
    /** An unfinished erasure. */
    ERASURE
  }

  /**
   * For an object of a name.
   *
   * @param name what was asked for: its name, number, time or location
   */
  public NotFoundException(Kind kind, String name, String message) {
    super(message);
    this.kind = kind;
    this.name = name;
  }

  /** What does not exist. */
  public Kind kind() {
    return kind;
  }

  /** What was asked for: its name, number, time or location. */
  public String name() {
    return name;
  }
}
