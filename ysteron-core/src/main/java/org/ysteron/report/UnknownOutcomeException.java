package org.ysteron.report;

import org.jspecify.annotations.Nullable;
import org.ysteron.error.YsteronException;

/**
 * It is unknown whether a commit happened, because the store did not reply. Nothing was cleaned up;
 * {@link #attempt()} continues with the same bytes and finds out.
 */
public final class UnknownOutcomeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  /** A commit whose outcome is unknown. */
  @FunctionalInterface
  public interface Attempt {
    /**
     * Continues the commit.
     *
     * @throws UnknownOutcomeException when the outcome is still unknown
     * @throws org.ysteron.error.ConflictException when it did not happen, and cannot happen any
     *     more
     */
    Committed run();
  }

  private final transient Attempt attempt;

  public UnknownOutcomeException(String message, @Nullable Throwable cause, Attempt attempt) {
    super(message, cause);
    this.attempt = attempt;
  }

  /** The commit. Call {@link Attempt#run()} until the outcome is known. */
  public Attempt attempt() {
    return attempt;
  }
}
