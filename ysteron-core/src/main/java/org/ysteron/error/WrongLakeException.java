package org.ysteron.error;

/**
 * The store does not hold the lake that was opened: it was moved away, replaced by another one, or
 * restored to an older copy. Nothing was changed; open it again.
 */
public final class WrongLakeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public WrongLakeException(String message) {
    super(message);
  }
}
