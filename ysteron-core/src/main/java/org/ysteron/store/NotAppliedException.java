package org.ysteron.store;

/** Storage failed, and for certain nothing was created by the call. */
public final class NotAppliedException extends StoreException {
  private static final long serialVersionUID = 1L;

  public NotAppliedException(String message, Throwable cause) {
    super(message, cause);
  }
}
