package org.ysteron.maintenance;

import java.time.temporal.TemporalAmount;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Budget;

/**
 * Deletes what nothing needs any more: files and pages that only expired versions used, files that
 * crashed writers left, and old ledger entries. It first commits a horizon, which refuses all work
 * that was started longer ago than the lake's setting {@code sweep.after} says; it deletes nothing
 * that later work may need. It can be stopped at any point and run again, on several machines at
 * once. Immutable: each method returns another one.
 */
public interface Sweep {

  /** Refuses work that was started longer ago than this, instead of what the settings say. */
  @CheckReturnValue
  Sweep after(TemporalAmount time);

  /** Refuses all work that was started before now and has not been committed. */
  @CheckReturnValue
  Sweep now();

  /** Lets entries of the ledger go even where much of them has to be copied for it. */
  @CheckReturnValue
  Sweep withEntries();

  /**
   * Looks at all names, not only at those since the last sweep: what somebody whose work was
   * refused already wrote all the same, and then died, is found by this only.
   */
  @CheckReturnValue
  Sweep full();

  /** No more than a budget: of files and time; bytes are those deleted. */
  @CheckReturnValue
  Sweep within(Budget budget);

  /**
   * Sweeps.
   *
   * @throws org.ysteron.error.DamagedException when the lake's newest entry is damaged; nothing is
   *     deleted then
   * @throws org.ysteron.error.WrongLakeException when the lake is not the one that was opened;
   *     nothing is deleted then
   */
  SweepReport run();

  /** What {@link #run} would delete now, without what copying would free. */
  SweepReport dryRun();
}
