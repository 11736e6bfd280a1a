package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/**
 * An append, writer or transaction was used after its end: it was committed, closed, or failed
 * earlier. After a failure nothing that it had taken since its last commit is in the lake, and the
 * cause is that failure.
 */
public final class EndedException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public EndedException(String message) {
    super(message);
  }

  public EndedException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
