package org.ysteron.store;

import org.jspecify.annotations.Nullable;
import org.ysteron.error.YsteronException;

/** Storage failed. After a create or a put it is unknown whether the object exists. */
public class StoreException extends YsteronException {
  private static final long serialVersionUID = 1L;

  public StoreException(String message) {
    super(message);
  }

  public StoreException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
