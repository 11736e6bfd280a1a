package org.ysteron.internal.work;

import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Logs failures of cleaning up, which must not hide the failure that made it necessary. */
public final class StoreFailures {
  private static final Logger LOG = LoggerFactory.getLogger(StoreFailures.class);

  private StoreFailures() {}

  /** Logs a failure of cleaning something up. */
  public static void log(String what, RuntimeException failure) {
    LOG.warn("Could not clean up {}: {}", what, failure.getMessage());
  }
}
