package org.ysteron.maintenance;

import org.ysteron.expr.Condition;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Budget;

/**
 * Packs the small files of each partition into few of the size that the table's setting {@code
 * file.bytes} names; rows that no longer count are left behind. No row changes, and earlier
 * versions keep the files they have. Which files are packed is decided so that a table that grows
 * is not rewritten again and again: a few small files stay. It makes several commits, each of which
 * stands; it may be stopped and run again at any time, beside writers and beside others that pack.
 * Immutable: each method returns another one.
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
