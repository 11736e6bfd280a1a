package org.ysteron.internal.copying;

import java.util.LinkedHashSet;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;

/**
 * Sets a floor where that is worth it, once all that is needed of entries below it is copied; and
 * renews the objects of pages of tables that hold little that lives. Each table is copied by
 * commits of its own, a long history in steps, so that others who commit meanwhile cost little. For
 * one thread.
 */
public final class Copying {
  private static final int MOST_TRIES = 8;

  private final LakeCore core;
  private final Committer committer;
  private long bytes;

  /** Makes a commit of a change that was started at a state. */
  @FunctionalInterface
  public interface Committer {
    void commit(Change change, LakeState start);
  }

  public Copying(LakeCore core, Committer committer) {
    this.core = core;
    this.committer = committer;
  }

  /** How many bytes were copied. */
  public long bytes() {
    return bytes;
  }

  /**
   * Copies what is worth it.
   *
   * @param state the newest state
   * @param floor the floor that may be set
   * @param isAsked whether it is to be set whatever that costs
   * @param renewed the tables whose objects of pages, with the lake's, are to be renewed whatever
   *     that costs
   */
  public void run(LakeState state, long floor, boolean isAsked, Optional<Set<UUID>> renewed) {
    CopyCosts costs = new CopyCosts(core, state, floor);
    Set<UUID> renewing = new LinkedHashSet<>(costs.worthRenewing());
    renewed.ifPresent(renewing::addAll);
    for (UUID table : renewing) {
      copy(table, 0, true);
    }
    if (!costs.isFloorWorth(isAsked)) {
      return;
    }
    boolean renewsLake = renewed.isPresent() || costs.isLakeWorthRenewing();
    for (int tries = 0; tries < MOST_TRIES; tries++) {
      for (UUID table : costs.needing(core.refresh())) {
        copy(table, floor, false);
      }
      Set<Long> kept = core.ofNewest(now -> FloorChange.kept(now.page(), core.pages()));
      EntryCopy entries = new EntryCopy(core, floor, kept, committer);
      Steps steps = entries.run();
      bytes += steps.bytes();
      LakeState start = core.refresh();
      try {
        committer.commit(
            new FloorChange(core, floor, renewsLake, kept, renewsLake ? null : steps), start);
        return;
      } catch (NothingToDo e) {
        return; // another one was there first
      } catch (FloorChange.StillNeeded e) {
        // a table was made, or brought back, meanwhile
      }
    }
  }

  /**
   * Whether {@link #run} would set a floor.
   *
   * @param isAsked whether it is to be set whatever that costs
   */
  public static boolean setsFloor(LakeCore core, LakeState state, long floor, boolean isAsked) {
    return new CopyCosts(core, state, floor).isFloorWorth(isAsked);
  }

  private void copy(UUID table, long floor, boolean renews) {
    Optional<Steps> steps =
        renews
            ? Optional.empty()
            : Optional.of(new HistoryCopy(core, table, floor, committer).run());
    LakeState start = core.refresh();
    // Nobody who has yet to commit has objects that are older than the horizon.
    long horizon = start.page().upkeep().horizon();
    CopyChange change = new CopyChange(core, table, floor, renews ? horizon : 0, start.number());
    steps.ifPresent(done -> change.know(done.known()));
    try {
      committer.commit(change, start);
      bytes += change.bytes();
    } catch (NothingToDo e) {
      // somebody else has done it
    }
    bytes += steps.map(Steps::bytes).orElse(0L);
  }
}
