package org.ysteron.internal.copying;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.WaitingFloor;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/**
 * Sets the floor in the lake page, once all that the lake still needs of the entries below it is
 * elsewhere. Of those entries the records go, but for those that made a version that is kept and
 * those that a hold names; for these the names of then are copied. The entries themselves may go
 * only when no writer who started before this commit can commit any more.
 */
final class FloorChange implements Change {
  private final LakeCore core;
  private final long floor;
  private final boolean renewsObjects;
  private final Set<Long> kept;
  private final Map<PageRef, PageRef> copied;

  /** A table still needs entries below the floor, so that they have to be copied first. */
  static final class StillNeeded extends RuntimeException {
    private static final long serialVersionUID = 1;

    StillNeeded() {
      super("a table still needs what is below the floor", null, false, false);
    }
  }

  /**
   * A floor.
   *
   * @param floor entries below it are to go
   * @param renewsObjects whether the lake's own objects of pages are copied, too
   * @param kept the entries that stay remembered
   * @param steps what was copied before; null for nothing
   */
  FloorChange(LakeCore core, long floor, boolean renewsObjects, Set<Long> kept, Steps steps) {
    this.core = core;
    this.floor = floor;
    this.renewsObjects = renewsObjects;
    this.kept = kept;
    this.copied = steps == null ? Map.of() : steps.known();
  }

  /**
   * The entries that made a version that is kept, or that a hold names. Later states have none
   * more, but for entries that come after this state, and those of new holds.
   */
  static Set<Long> kept(LakePage lake, PageStore pages) {
    Set<Long> kept = new HashSet<>();
    lake.upkeep().holds(pages).forEach(hold -> kept.add(hold.entry()));
    for (TableListing table : lake.allByName(pages)) {
      TableHistory.of(table, pages).eachEntry(kept::add);
    }
    return kept;
  }

  @Override
  public void apply(Staging staging) {
    PageStore pages = staging.pages();
    LakePage base = staging.base().page();
    if (floor <= base.upkeep().floor()) {
      throw new NothingToDo(); // another one was there first
    }
    Set<Long> stay = new HashSet<>();
    base.upkeep().holds(pages).forEach(hold -> stay.add(hold.entry()));
    for (TableListing table : base.allByName(pages)) {
      if (CopyChange.needs(table, floor)) {
        throw new StillNeeded();
      }
    }
    long entry = staging.commit().entry();
    long pagesFrom = renewsObjects ? base.upkeep().horizon() : base.upkeep().pagesFrom();
    staging.edit(
        LakeFeature.EXPIRY,
        (lake, own) -> {
          LakePage fewer = lake.withEntries(gone(lake, stay, pages), pages, own);
          LeftObjects left =
              new LeftObjects(PageHome.LAKE_DIRECTORY, renewsObjects ? pagesFrom : 0);
          LakePage moved =
              fewer.copied(
                  new PageCopies(
                      pages, left.of(ref -> CopyChange.isOld(ref, floor, pagesFrom)), copied, own));
          return moved.with(
              moved
                  .upkeep()
                  .withFloor(new WaitingFloor(floor, entry, hashOf(staging)))
                  // A start is tested by the record of its entry, so that it must not be below.
                  .withHorizon(Math.max(floor, moved.upkeep().horizon()))
                  .withPagesFrom(pagesFrom)
                  .withFree(left.freed(staging, core.store()), pages, own));
        });
  }

  /** The hash of the entry that is the floor. */
  private String hashOf(Staging staging) {
    LakeState base = staging.base();
    return floor == base.number()
        ? base.hash()
        : base.page()
            .entry(floor, staging.pages())
            .map(EntryRecord::hash)
            .orElseThrow(() -> new DamagedException("Entry " + floor + " is not remembered."));
  }

  /** The records below the floor that go; the one behind a gap remembers when it began. */
  private List<Edit<EntryRecord>> gone(LakePage lake, Set<Long> held, PageStore pages) {
    List<Edit<EntryRecord>> edits = new ArrayList<>();
    Instant missing = null;
    boolean isFirst = true;
    TreeCursor<EntryRecord, ?> records = lake.entriesFrom(0, pages);
    while (records.next()) {
      EntryRecord record = records.value();
      boolean stays = kept.contains(record.number()) || held.contains(record.number());
      if (record.number() < floor && !stays) {
        edits.add(Edit.remove(VersionPage.versionKey(record.number())));
        if (missing == null) {
          // One that changed no table is missed by nobody who finds the one before it.
          boolean isMissed = !record.isQuiet() || isFirst;
          missing = record.missing().orElse(isMissed ? record.time() : null);
        }
      } else {
        isFirst = false;
        if (missing != null) {
          EntryRecord after = record.afterGap(missing);
          edits.add(Edit.put(VersionPage.versionKey(record.number()), after));
          missing = null;
        }
        if (record.number() >= floor) {
          break;
        }
      }
    }
    return edits;
  }
}
