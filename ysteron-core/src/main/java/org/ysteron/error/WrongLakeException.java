package org.ysteron.error;

/**
 * What is in the store is not the lake that was opened: it was moved away, replaced by another one,
 * or put back to an older copy. Nothing was changed; open it again.
 */
public final class WrongLakeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public WrongLakeException(String message) {
    super(message);
  }
}
