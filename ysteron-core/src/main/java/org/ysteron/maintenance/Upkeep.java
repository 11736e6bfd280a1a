package org.ysteron.maintenance;

import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Budget;

/**
 * Runs the maintenance that is due by the settings of the lake and of its tables: it expires
 * versions, sweeps, and compacts small files, in this order. Run it from a scheduler, on one
 * machine or on several at once. Immutable: each method returns another one.
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
