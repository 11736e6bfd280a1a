package org.ysteron.error;

/** A failure that the library reports. Its message is written for people. */
public class YsteronException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  public YsteronException(String message) {
    super(message);
  }

  public YsteronException(String message, Throwable cause) {
    super(message, cause);
  }
}
