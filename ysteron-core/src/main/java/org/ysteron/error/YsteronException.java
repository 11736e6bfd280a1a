package org.ysteron.error;

import org.jspecify.annotations.Nullable;

/** A failure that the library reports. Its message is written for people. */
public class YsteronException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  public YsteronException(String message) {
    super(message);
  }

  public YsteronException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }

  /** What happened, to what, and what to do next; never null. */
  @Override
  public String getMessage() {
    return String.valueOf(super.getMessage());
  }
}
