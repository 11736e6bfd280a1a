package org.ysteron.maintenance;

import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Budget;

/**
 * Does all that is due by the settings of the lake and of its tables: lets versions expire, sweeps,
 * and packs small files, in that order. To be run again and again, by a clock, on one machine or on
 * several at once. Immutable: each method returns another one.
 */
public interface Upkeep {

  /** No more than a budget. */
  @CheckReturnValue
  Upkeep within(Budget most);

  /** Does what is due. */
  UpkeepReport run();

  /** What {@link #run} would do now, whatever the budget. */
  UpkeepPlan dryRun();
}
