package org.ysteron.internal.upkeep;

import org.ysteron.error.DamagedException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.report.SweepReport;

/**
 * Carries out a floor that a commit has set, once the horizon is above that commit: writes the
 * object that says so, then deletes the entries below it, junk that sleepers left there among them,
 * then the objects of older floors. For one thread.
 */
final class LedgerTrim {
  private final LakeCore core;
  private final LakeState state;

  LedgerTrim(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
  }

  /** Whether the floor that was set may be carried out. */
  private boolean isDue() {
    UpkeepState upkeep = state.page().upkeep();
    return upkeep.floor() > 0 && upkeep.horizon() > upkeep.floorSet();
  }

  /** Whether there may be something to delete; looks at the floors that are known. */
  boolean hasWork() {
    return isDue() && !core.ledger().isFloorAlone(state.page().upkeep().floor());
  }

  /** Makes the floor known. */
  void write() {
    long floor = state.page().upkeep().floor();
    if (core.ledger().floor() < floor) {
      core.checkStill(state);
      String hash =
          state
              .page()
              .entry(floor, core.pages())
              .map(EntryRecord::hash)
              .orElseThrow(() -> new DamagedException("Entry " + floor + " is not remembered."));
      core.ledger().raiseFloor(floor, hash);
    }
  }

  /** Deletes what is below the floor, as far as the budget goes. */
  void delete(Deletions deletions) {
    long floor = state.page().upkeep().floor();
    boolean isWhole =
        core.ledger()
            .eachBelow(
                floor,
                (number, name, bytes) -> deletions.delete(name, SweepReport.Kind.ENTRY, bytes));
    if (isWhole) {
      deletions.flush();
      if (!deletions.isRehearsal()) {
        core.ledger().forgetFloorsBelow(floor);
      }
    }
  }
}
