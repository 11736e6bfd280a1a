package org.ysteron.sql;

import org.ysteron.error.YsteronException;

/** One of several executions failed, and none of them was done. */
public final class SqlBatchException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final int number;

  SqlBatchException(int number, YsteronException cause) {
    super(
        "Execution %d of the batch failed, and nothing of the batch was done: %s"
            .formatted(number + 1, cause.getMessage()),
        cause);
    this.number = number;
  }

  /** Which one, from 0. */
  public int number() {
    return number;
  }
}
