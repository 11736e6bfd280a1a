package org.ysteron.report;

import org.jspecify.annotations.Nullable;
import org.ysteron.error.YsteronException;

/**
 * The store did not say whether a commit happened. Nothing was cleaned up; {@link #attempt()} goes
 * on with the very same bytes and finds out.
 */
public final class UnknownOutcomeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  /** A commit that has not ended. */
  @FunctionalInterface
  public interface Attempt {
    /**
     * Goes on with it.
     *
     * @throws UnknownOutcomeException when the store still does not say how it ended
     * @throws org.ysteron.error.ConflictException when it did not happen and cannot any more
     */
    Committed run();
  }

  private final transient Attempt attempt;

  public UnknownOutcomeException(String message, @Nullable Throwable cause, Attempt attempt) {
    super(message, cause);
    this.attempt = attempt;
  }

  /** The commit, whose {@link Attempt#run()} may be called until it says how it ended. */
  public Attempt attempt() {
    return attempt;
  }
}
