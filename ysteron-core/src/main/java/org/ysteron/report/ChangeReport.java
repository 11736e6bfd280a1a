package org.ysteron.report;

/**
 * What a row change did.
 *
 * @param rowsMatched rows of the table that its condition or its source met
 * @param rowsUpdated rows whose values it changed
 * @param rowsDeleted rows it deleted
 * @param rowsInserted rows it added
 * @param filesDropped data files all of whose rows went, so that none was written for them
 * @param filesMasked data files that got a row mask or a larger one
 * @param filesRewritten data files whose other rows were written anew
 * @param filesAdded data files written, the rewritten ones' successors included
 * @param bytesWritten bytes of those
 */
public record ChangeReport(
    long rowsMatched,
    long rowsUpdated,
    long rowsDeleted,
    long rowsInserted,
    long filesDropped,
    long filesMasked,
    long filesRewritten,
    long filesAdded,
    long bytesWritten) {
  public static final ChangeReport NOTHING = new ChangeReport(0, 0, 0, 0, 0, 0, 0, 0, 0);

  /** Whether nothing was changed. */
  public boolean isNothing() {
    return rowsUpdated + rowsDeleted + rowsInserted == 0;
  }

  /** What inserting rows did. */
  public static ChangeReport inserted(long rows, long files, long bytes) {
    return new ChangeReport(0, 0, 0, rows, 0, 0, 0, files, bytes);
  }

  /** The same when some of the rows that were to be inserted were left out. */
  public ChangeReport skippingRejected(long rows) {
    return and(new ChangeReport(0, 0, 0, -rows, 0, 0, 0, 0, 0));
  }

  /** This and what was done besides. */
  public ChangeReport and(ChangeReport more) {
    return new ChangeReport(
        rowsMatched + more.rowsMatched,
        rowsUpdated + more.rowsUpdated,
        rowsDeleted + more.rowsDeleted,
        rowsInserted + more.rowsInserted,
        filesDropped + more.filesDropped,
        filesMasked + more.filesMasked,
        filesRewritten + more.filesRewritten,
        filesAdded + more.filesAdded,
        bytesWritten + more.bytesWritten);
  }
}
