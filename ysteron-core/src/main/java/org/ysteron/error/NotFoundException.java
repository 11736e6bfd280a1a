package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** A table, version, column or lake does not exist. */
public final class NotFoundException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public NotFoundException(String message) {
    super(message);
  }

  public NotFoundException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
