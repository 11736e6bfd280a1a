package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/**
 * An object of the lake does not have the content that its reference promises. Nothing read from it
 * was used.
 */
public final class DamagedException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public DamagedException(String message) {
    super(message);
  }

  public DamagedException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
