package org.ysteron.internal.transact;

/** Says that the alterations of a transaction cannot be done again on what others left. */
final class ReplayCollision extends RuntimeException {
  private static final long serialVersionUID = 1L;

  ReplayCollision(String what, Throwable cause) {
    super(what, cause);
  }
}
