package org.ysteron.internal.compute;

import org.ysteron.error.InvalidInputException;

/** A value of a row cannot be computed: it does not fit, or there is none. */
public final class ComputeException extends InvalidInputException {
  private static final long serialVersionUID = 1L;

  private final int row;

  ComputeException(int row, String message) {
    super(message);
    this.row = row;
  }

  /** The position of the row in its batch. */
  public int row() {
    return row;
  }
}
