package org.ysteron.error;

/**
 * The versions of a table cannot be followed further, because an earlier version was made current
 * again: rows that were delivered before may be gone, and others may be back.
 */
public final class RewoundException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final String table;
  private final long version;
  private final long target;

  /**
   * A rewind.
   *
   * @param version the version that it made
   * @param target the earlier version that it made current again
   */
  public RewoundException(String table, long version, long target) {
    super(
        "Version %d of table %s is a rewind to version %d, so rows of the versions between them are gone. Read version %d as a whole, then follow the versions after it."
            .formatted(version, table, target, version));
    this.table = table;
    this.version = version;
    this.target = target;
  }

  /** The name of the table. */
  public String table() {
    return table;
  }

  /** The version that the rewind made. */
  public long version() {
    return version;
  }

  /** The earlier version that it made current again. */
  public long target() {
    return target;
  }
}
