package org.ysteron.error;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * An object of the lake does not have the content that its reference promises. Nothing read from it
 * was used.
 */
public final class DamagedException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final @Nullable String objectName;

  public DamagedException(String message) {
    this(message, null);
  }

  public DamagedException(String message, @Nullable Throwable cause) {
    this(message, nameIn(cause), cause);
  }

  private DamagedException(String message, @Nullable String objectName, @Nullable Throwable cause) {
    super(message, cause);
    this.objectName = objectName;
  }

  /** Damage of an object whose name is known. */
  public static DamagedException of(String objectName, String message, @Nullable Throwable cause) {
    return new DamagedException(message, objectName, cause);
  }

  private static @Nullable String nameIn(@Nullable Throwable cause) {
    return cause instanceof DamagedException damage ? damage.objectName : null;
  }

  /** The name of the damaged or missing object in the store; empty when it is not one object. */
  public Optional<String> objectName() {
    return Optional.ofNullable(objectName);
  }
}
