package org.ysteron.error;

/**
 * What is used has ended: it was committed, closed, or failed earlier. After a failure nothing of
 * what it had taken since its last commit is in the lake, and the cause is that failure.
 */
public final class EndedException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public EndedException(String message) {
    super(message);
  }

  public EndedException(String message, Throwable cause) {
    super(message, cause);
  }
}
