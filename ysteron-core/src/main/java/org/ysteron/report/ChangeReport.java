package org.ysteron.report;

/**
 * The result of a row change.
 *
 * @param rowsMatched rows of the table that matched the condition or the source
 * @param rowsUpdated rows whose values it changed
 * @param rowsDeleted rows it deleted
 * @param rowsInserted rows it added
 * @param filesDropped data files of which no row is left
 * @param filesMasked data files with a new or larger row mask
 * @param filesRewritten data files that were rewritten without the removed rows
 * @param filesAdded data files written, including the rewritten ones
 * @param bytesWritten bytes of the files written
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

  /** The result of inserting rows. */
  public static ChangeReport inserted(long rows, long files, long bytes) {
    return new ChangeReport(0, 0, 0, rows, 0, 0, 0, files, bytes);
  }

  /** This report when some rows to be inserted were skipped. */
  public ChangeReport skippingRejected(long rows) {
    return and(new ChangeReport(0, 0, 0, -rows, 0, 0, 0, 0, 0));
  }

  /** The sum of both reports. */
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
