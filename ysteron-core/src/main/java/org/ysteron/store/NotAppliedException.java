package org.ysteron.store;

/** Storage failed, and the call has certainly not created anything. */
public final class NotAppliedException extends StoreException {
  private static final long serialVersionUID = 1L;

  public NotAppliedException(String message, Throwable cause) {
    super(message, cause);
  }
}
