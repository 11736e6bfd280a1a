package org.ysteron.error;

/** A commit met another one that it cannot be combined with. Nothing was changed. */
public final class ConflictException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public ConflictException(String message) {
    super(message);
  }

  public ConflictException(String message, Throwable cause) {
    super(message, cause);
  }
}
