package org.ysteron.error;

/** A commit met another one that it cannot be combined with. Nothing was changed. */
public final class ConflictException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final boolean worthAnotherTry;

  public ConflictException(String message) {
    this(message, true);
  }

  /**
   * A conflict.
   *
   * @param worthAnotherTry whether the same work, done again on the newest state, may succeed
   */
  public ConflictException(String message, boolean worthAnotherTry) {
    super(message);
    this.worthAnotherTry = worthAnotherTry;
  }

  /** Whether the same work, done again on the newest state, may succeed. */
  public boolean isWorthAnotherTry() {
    return worthAnotherTry;
  }
}
