package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** An argument cannot be used: a name, a schema, a row, a condition. Nothing was changed. */
public class InvalidInputException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public InvalidInputException(String message) {
    super(message);
  }

  public InvalidInputException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
