package org.ysteron.commit;

import org.ysteron.error.YsteronException;

/**
 * The store did not say whether a commit happened. Nothing was cleaned up; {@link #attempt()} goes
 * on with the very same bytes and finds out.
 */
public final class UnknownOutcomeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final transient CommitAttempt attempt;

  UnknownOutcomeException(String message, Throwable cause, CommitAttempt attempt) {
    super(message, cause);
    this.attempt = attempt;
  }

  /** The commit, whose {@link CommitAttempt#run()} may be called until it says how it ended. */
  public CommitAttempt attempt() {
    return attempt;
  }
}
