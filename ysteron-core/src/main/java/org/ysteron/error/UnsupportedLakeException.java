package org.ysteron.error;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The lake was written by a newer program whose features this one does not know. */
public final class UnsupportedLakeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final @Nullable String feature;

  /** A format that is newer as a whole. */
  public UnsupportedLakeException(String message) {
    this(null, message);
  }

  /** A feature that is not known; null when it has no name. */
  public UnsupportedLakeException(@Nullable String feature, String message) {
    super(message);
    this.feature = feature;
  }

  /** The name of the feature that this program does not know; empty for a newer format. */
  public Optional<String> feature() {
    return Optional.ofNullable(feature);
  }
}
