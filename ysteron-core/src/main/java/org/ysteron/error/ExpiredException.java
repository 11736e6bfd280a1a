package org.ysteron.error;

/** A version or an object existed once and is no longer kept. Nothing is damaged. */
public final class ExpiredException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public ExpiredException(String message) {
    super(message);
  }

  public ExpiredException(String message, Throwable cause) {
    super(message, cause);
  }
}
