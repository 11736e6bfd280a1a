package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** A version or an object existed once and is no longer kept. Nothing is damaged. */
public final class ExpiredException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public ExpiredException(String message) {
    super(message);
  }

  public ExpiredException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
