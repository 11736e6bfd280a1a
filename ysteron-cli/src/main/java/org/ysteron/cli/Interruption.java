package org.ysteron.cli;

import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;

/**
 * Ctrl-C, or another signal that ends the process: the running command is cancelled, and the
 * process waits some seconds until the command has deleted its temporary files.
 */
final class Interruption {
  private static final long MOST_SECONDS = 10;

  private static final CountDownLatch ENDED = new CountDownLatch(1);
  private static volatile boolean requested;

  private Interruption() {}

  /** Makes signals cancel the command instead of ending the process at once. */
  static void watch() {
    Runtime.getRuntime().addShutdownHook(new Thread(Interruption::cancel, "interruption"));
  }

  private static void cancel() {
    requested = true;
    try {
      boolean ended = ENDED.await(MOST_SECONDS, TimeUnit.SECONDS);
      if (!ended) {
        System.err.println(
            "The command did not end within %d s. Its temporary files may remain until a sweep."
                .formatted(MOST_SECONDS));
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  /** Whether the command is to end. */
  static boolean isRequested() {
    return requested;
  }

  /** The command has ended, so that nothing needs to wait for it. */
  static void ended() {
    ENDED.countDown();
  }
}
