package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** The lake was written by a newer program whose features this one does not know. */
public final class UnsupportedLakeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public UnsupportedLakeException(String message) {
    super(message);
  }

  public UnsupportedLakeException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
