package org.ysteron;

import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.statement.CheckReturnValue;
import org.ysteron.internal.upkeep.UpkeepRun;
import org.ysteron.option.Budget;
import org.ysteron.report.UpkeepPlan;
import org.ysteron.report.UpkeepReport;

/**
 * Does all that is due by the settings of the lake and of its tables: lets versions expire, sweeps,
 * and packs small files, in that order. To be run again and again, by a clock, on one machine or on
 * several at once. Immutable.
 */
public final class Upkeep {
  private final LakeCore core;
  private final CommitNote note;
  private final Budget budget;

  Upkeep(LakeCore core, CommitNote note, Budget budget) {
    this.core = core;
    this.note = note;
    this.budget = budget;
  }

  /** No more than a budget. */
  @CheckReturnValue
  public Upkeep within(Budget most) {
    return new Upkeep(core, note, most);
  }

  /** Does what is due. */
  public UpkeepReport run() {
    return new UpkeepRun(core, note, budget).run();
  }

  /** What {@link #run} would do now, whatever the budget. */
  public UpkeepPlan rehearse() {
    return new UpkeepRun(core, note, budget).plan();
  }
}
