package org.ysteron;

import java.time.temporal.TemporalAmount;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.statement.CheckReturnValue;
import org.ysteron.internal.upkeep.SweepChoice;
import org.ysteron.internal.upkeep.SweepRun;
import org.ysteron.option.Budget;
import org.ysteron.option.Retention;
import org.ysteron.report.SweepReport;

/**
 * Deletes what nothing needs any more: files and pages that only expired versions had, what writers
 * left that died, entries of the ledger whose versions are gone. It first refuses, by a commit, all
 * work that was started longer ago than the lake's setting {@code sweep.after} says; what later
 * work may need it leaves. It may be stopped anywhere and begun anew, on several machines at once.
 * Immutable.
 */
public final class Sweep {
  private final LakeCore core;
  private final CommitNote note;
  private final SweepChoice choice;

  Sweep(LakeCore core, CommitNote note, SweepChoice choice) {
    this.core = core;
    this.note = note;
    this.choice = choice;
  }

  private Sweep of(SweepChoice other) {
    return new Sweep(core, note, other);
  }

  /** Refuses work that was started longer ago than this, instead of what the settings say. */
  @CheckReturnValue
  public Sweep after(TemporalAmount time) {
    Retention.checkNotNegative(time);
    return of(choice.after(time));
  }

  /** Refuses all work that was started before now and has not been committed. */
  @CheckReturnValue
  public Sweep now() {
    return of(choice.now());
  }

  /** Lets entries of the ledger go even where much of them has to be copied for it. */
  @CheckReturnValue
  public Sweep withEntries() {
    return of(choice.raisingFloor());
  }

  /**
   * Looks at all names, not only at those since the last sweep: what somebody whose work was
   * refused already wrote all the same, and then died, is found by this only.
   */
  @CheckReturnValue
  public Sweep thoroughly() {
    return of(choice.thoroughly());
  }

  /** No more than a budget: of files and time; bytes are those deleted. */
  @CheckReturnValue
  public Sweep within(Budget budget) {
    return of(choice.within(budget));
  }

  /**
   * Sweeps.
   *
   * @throws org.ysteron.error.DamagedException when the lake's newest entry is damaged; nothing is
   *     deleted then
   * @throws org.ysteron.error.WrongLakeException when the lake is not the one that was opened;
   *     nothing is deleted then
   */
  public SweepReport run() {
    return new SweepRun(core, note, choice).run();
  }

  /** What {@link #run} would delete now, without what copying would free. */
  public SweepReport rehearse() {
    return new SweepRun(core, note, choice).rehearse();
  }
}
