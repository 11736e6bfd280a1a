package org.ysteron.internal.transact;

/** Says that something that is to be done once was done before; for whoever asked for it. */
public final class AppliedBefore extends RuntimeException {
  private static final long serialVersionUID = 1L;

  AppliedBefore() {
    super("applied before", null, false, false);
  }
}
