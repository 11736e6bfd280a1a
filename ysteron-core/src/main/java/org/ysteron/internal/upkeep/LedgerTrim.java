package org.ysteron.internal.upkeep;

import java.util.List;
import java.util.Optional;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.lake.WaitingFloor;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.store.StoreException;

/**
 * Carries out the greatest floor that a commit has set and that the horizon has passed since:
 * writes the object that says so, then deletes the entries below it, then the objects of older
 * floors. What is below a floor that is known already goes, too: what a trim left that was
 * interrupted, and what sleepers made there since. For one thread.
 */
final class LedgerTrim {
  private final LakeCore core;
  private final LakeState state;
  private final long known;
  private final Optional<WaitingFloor> due;

  LedgerTrim(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
    this.known = core.ledger().floor();
    this.due = due(state).filter(floor -> floor.floor() > known);
  }

  /** The greatest floor that may be carried out; a lake of an earlier program tells the last. */
  private Optional<WaitingFloor> due(LakeState of) {
    UpkeepState upkeep = of.page().upkeep();
    boolean isUntold = upkeep.waiting().isEmpty() && upkeep.floor() > known;
    return isUntold && upkeep.horizon() > upkeep.floorSet()
        ? of.page()
            .entry(upkeep.floor(), core.pages())
            .map(EntryRecord::hash)
            .map(hash -> new WaitingFloor(upkeep.floor(), upkeep.floorSet(), hash))
        : upkeep.dueFloor();
  }

  /** Whether a horizon at an entry would let a floor be carried out that is not. */
  static boolean hasWork(LakeCore core, LakeState state, long horizon) {
    UpkeepState upkeep = state.page().upkeep();
    List<WaitingFloor> waiting =
        upkeep.waiting().isEmpty()
            ? List.of(new WaitingFloor(upkeep.floor(), upkeep.floorSet(), ""))
            : upkeep.waiting();
    long known = core.ledger().floor();
    return waiting.stream().anyMatch(floor -> floor.floor() > known && floor.set() < horizon);
  }

  /** Makes a floor known that is due. */
  void write() {
    due.ifPresent(
        floor -> {
          core.checkStill(state);
          try {
            core.ledger().raiseFloor(floor.floor(), floor.hash());
          } catch (StoreException e) {
            // Another one may have made it, or a greater one, and discarded what this was writing.
            if (core.ledger().floor() < floor.floor()) {
              throw e;
            }
          }
        });
  }

  /** Deletes what is below the floor, as far as the budget goes. */
  void delete(Deletions deletions) {
    long floor = due.map(WaitingFloor::floor).orElse(known);
    if (floor == 0) {
      return;
    }
    boolean isWhole =
        core.ledger()
            .eachBelow(
                floor,
                (number, name, bytes) -> deletions.delete(name, SweepReport.Kind.ENTRY, bytes));
    if (isWhole) {
      deletions.flush();
      if (!deletions.isDryRun()) {
        core.ledger().forgetFloorsBelow(floor);
      }
    }
  }
}
