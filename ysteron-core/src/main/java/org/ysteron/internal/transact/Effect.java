package org.ysteron.internal.transact;

import java.util.List;
import org.ysteron.internal.table.NextVersion;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageStore;

/**
 * What one statement does to a table.
 *
 * @param operation its word in the history
 * @param files new data files
 * @param touches rows removed from files that were there
 * @param reads what it read
 */
public record Effect(
    String operation, List<StagedFile> files, List<Touch> touches, List<Read> reads) {

  /** The table as it is after the statement, for those in the same transaction. */
  Draft appliedTo(Draft draft, PageStore pages, PageBatch batch) {
    NextVersion next = new NextVersion(draft.page(), draft.numbers(), pages, batch);
    for (Touch touch : touches) {
      if (touch.gone()) {
        next.remove(touch.entry());
      } else {
        next.mask(touch.entry(), touch.rows());
      }
    }
    files.forEach(next::add);
    return new Draft(next.build(true), next.numbers());
  }
}
