package org.ysteron.internal.work;

import java.util.concurrent.TimeUnit;
import org.ysteron.error.YsteronException;

/** Waits before another try. */
@FunctionalInterface
public interface Waiting {
  /** In which the thread sleeps. */
  Waiting SLEEPING =
      micros -> {
        try {
          TimeUnit.MICROSECONDS.sleep(micros);
        } catch (InterruptedException e) {
          Thread.currentThread().interrupt();
          throw new YsteronException("Interrupted while waiting to try a commit again.", e);
        }
      };

  /** Waits some microseconds. */
  void micros(long count);
}
