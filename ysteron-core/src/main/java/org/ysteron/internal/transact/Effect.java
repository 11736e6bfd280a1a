package org.ysteron.internal.transact;

import java.util.List;
import org.ysteron.internal.changes.RowEdits;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.table.StagedFile;

/**
 * What one statement does to a table.
 *
 * @param operation its word in the history
 * @param edits what it does to rows
 * @param reads what it read
 */
public record Effect(String operation, RowEdits edits, List<Read> reads) {

  /**
   * What one statement does to a table.
   *
   * @param files new data files
   * @param touches rows removed from files that were there
   */
  public Effect(String operation, List<StagedFile> files, List<Touch> touches, List<Read> reads) {
    this(operation, RowEdits.of(files, touches), reads);
  }

  List<StagedFile> files() {
    return edits.files();
  }
}
