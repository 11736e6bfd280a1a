package org.ysteron.maintenance;

import org.ysteron.expr.Condition;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Budget;

/**
 * Combines the small files of each partition into files of the size of the table setting {@code
 * file.bytes}, without the deleted rows. No row changes, and earlier versions keep their files.
 * Files are chosen so that a growing table is not rewritten again and again: a few small files
 * remain. A compaction makes several commits, each of which is complete. It can be stopped and run
 * again at any time, while others write or compact. Immutable: each method returns another one.
 */
public interface Compaction {

  /** Only files that may hold rows for which a condition is true; they are packed as a whole. */
  @CheckReturnValue
  Compaction where(Condition also);

  /** All small files, even two: fewer files, at the cost of rewriting them again next time. */
  @CheckReturnValue
  Compaction full();

  /** Files of earlier layouts and schemas, too, whatever their size: they come to the newest. */
  @CheckReturnValue
  Compaction renewing();

  /** No more than a budget. */
  @CheckReturnValue
  Compaction within(Budget budget);

  /**
   * Packs. A file that cannot be read is left out and named in the report.
   *
   * @throws org.ysteron.error.ConflictException when the table is dropped; what was committed
   *     before stands
   */
  CompactionReport run();

  /** What would be packed now, without doing it and whatever the budget. */
  CompactionPlan dryRun();
}
