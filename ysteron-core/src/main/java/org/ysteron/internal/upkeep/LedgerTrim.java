package org.ysteron.internal.upkeep;

import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.report.SweepReport;
import org.ysteron.store.ObjectStore;

/**
 * Carries out a floor that a commit has set, once the horizon is above that commit: writes the
 * object that says so, then deletes the entries below it, junk that sleepers left there among them,
 * then the objects of older floors. For one thread.
 */
final class LedgerTrim {
  private static final String LEDGER = "ledger";
  private static final String FLOOR = "floor";

  private final LakeCore core;
  private final LakeState state;

  LedgerTrim(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
  }

  /** Whether the floor that was set may be carried out. */
  boolean isDue() {
    UpkeepState upkeep = state.page().upkeep();
    return upkeep.floor() > 0 && upkeep.horizon() > upkeep.floorSet();
  }

  /** Whether there may be something to delete; looks at the names of floors and entries. */
  boolean hasWork() {
    UpkeepState upkeep = state.page().upkeep();
    if (!isDue()) {
      return false;
    }
    List<ObjectStore.Child> floors = floors();
    boolean isCarriedOut =
        floors.size() == 1
            && Numbering.leading(floors.get(0).segment()).orElse(0) == upkeep.floor();
    return !isCarriedOut;
  }

  private List<ObjectStore.Child> floors() {
    return core.store().list(FLOOR, "", Integer.MAX_VALUE);
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
      Map<String, Object> line = new LinkedHashMap<>();
      line.put("ysteron", "floor");
      line.put("number", floor);
      line.put("hash", hash);
      core.store()
          .createIfAbsent(
              FLOOR + "/" + Numbering.flat(floor),
              (Json.write(line) + "\n").getBytes(StandardCharsets.UTF_8));
    }
  }

  /** Deletes what is below the floor; false when the budget was spent before. */
  boolean delete(Deletions deletions) {
    long floor = state.page().upkeep().floor();
    for (ObjectStore.Child child : core.store().list(LEDGER, "", Integer.MAX_VALUE)) {
      int levels = Numbering.levels(child.segment());
      if (levels > 0 && !below(LEDGER + "/" + child.segment(), levels, floor, deletions)) {
        return false;
      }
    }
    deletions.flush();
    for (ObjectStore.Child child : floors()) {
      if (Numbering.leading(child.segment()).orElse(floor) < floor) {
        deletions.uncounted(FLOOR + "/" + child.segment());
      }
    }
    return !deletions.isSpent();
  }

  private boolean below(String directory, int levels, long floor, Deletions deletions) {
    for (ObjectStore.Child child : core.store().list(directory, "", Integer.MAX_VALUE)) {
      String name = directory + "/" + child.segment();
      if (!Numbering.isGroup(child.segment())) {
        continue;
      }
      if (levels > 1) {
        if (!below(name, levels - 1, floor, deletions)) {
          return false;
        }
      } else if (Numbering.ofPath(name.substring(LEDGER.length() + 1)) < floor
          && !deletions.delete(name, SweepReport.Kind.ENTRY, child.size())) {
        return false;
      }
    }
    return true;
  }
}
