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

  /**
   * The same for who reads: in which row of a data file a condition cannot be computed.
   *
   * @param first the position in the file of the first row of the batch
   * @param file the number of the file in the table
   * @param table the table, and which version of it if that is known
   */
  public InvalidInputException inFile(long first, long file, String table) {
    return new InvalidInputException(
        "The condition cannot be computed for row %d of file %d of table %s: %s."
            .formatted(first + row, file, table, getMessage()),
        this);
  }
}
