package org.ysteron.internal.copying;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.StartedObject;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.tree.PageHome;

/**
 * Whether copying pages forward is worth it.
 *
 * <p>Entries are let go when what that frees is at least four times what has to be copied for it,
 * and at least a megabyte, or when somebody asks for it. What is copied are all pages in entries
 * below the floor that a kept version needs; what is freed are the entries. The objects of pages of
 * a table, or of the lake, are renewed when they hold more than twice what of them is still needed,
 * and more than a megabyte. For one thread.
 */
final class CopyCosts {
  private static final int TIMES = 4;
  private static final int TIMES_LIVING = 2;
  private static final long LEAST = 1 << 20;

  private static volatile long least = LEAST;

  /** Sets from how many bytes on copying may be worth it, for tests; 0 for what it is. */
  static void makeWorthAbove(long bytes) {
    least = bytes == 0 ? LEAST : bytes;
  }

  private final LakeCore core;
  private final LakeState state;
  private final long floor;

  /** Goes through what the lake refers to, as far as it may have to be copied. */
  CopyCosts(LakeCore core, LakeState state, long floor) {
    this.core = core;
    this.state = state;
    this.floor = floor;
  }

  /** The tables whose objects of pages hold much that nothing needs. */
  List<UUID> worthRenewing() {
    List<UUID> renewing = new ArrayList<>();
    for (TableListing table : tables(state)) {
      long stored = stored(PageHome.directory(table.id()));
      if (stored > least && stored > TIMES_LIVING * living(table)) {
        renewing.add(table.id());
      }
    }
    return renewing;
  }

  /** Whether the lake's own objects of pages hold much that nothing needs. */
  boolean isLakeWorthRenewing() {
    long stored = stored(PageHome.LAKE_DIRECTORY);
    long[] living = new long[1];
    if (stored > least) {
      new LakeWalk(
              core.pages(),
              ref -> {
                living[0] += ref.home().kind() == PageHome.Kind.ENTRY ? 0 : ref.length();
                return true;
              })
          .through(state.page(), state.pageRef());
    }
    return stored > least && stored > TIMES_LIVING * living[0];
  }

  private long stored(String directory) {
    long horizon = state.page().upkeep().horizon(); // younger ones may be somebody's yet
    return StartedObject.in(core.store(), directory, 0, horizon).stream()
        .mapToLong(StartedObject::bytes)
        .sum();
  }

  /** Bytes of a table's pages in objects. */
  private long living(TableListing table) {
    long[] living = new long[1];
    new TableWalk(
            core.pages(),
            ref -> {
              if (ref.home().kind() == PageHome.Kind.ENTRY) {
                return ref.below().start() < Long.MAX_VALUE;
              }
              living[0] += ref.length();
              return true;
            })
        .through(table);
    return living[0];
  }

  /** Whether entries below the floor are to go. */
  boolean isFloorWorth(boolean isAsked) {
    long before = state.page().upkeep().floor();
    if (floor <= before) {
      return false;
    }
    if (isAsked) {
      return true;
    }
    long freed = freed(before);
    if (freed < least) {
      return false;
    }
    long young = 0;
    for (TableListing table : tables(state)) {
      young += young(table);
      if (young * TIMES > freed) {
        return false;
      }
    }
    return true;
  }

  /** Bytes of the entries from the floor so far up to the one that is wanted. */
  private long freed(long before) {
    long[] freed = new long[1];
    core.ledger()
        .eachBelow(
            floor,
            (number, name, bytes) -> {
              freed[0] += number >= before ? bytes : 0;
              return true;
            });
    return freed[0];
  }

  /** Bytes of a table's pages in entries below the floor. */
  private long young(TableListing table) {
    long[] bytes = new long[1];
    new TableWalk(
            core.pages(),
            ref -> {
              if (ref.reach().entry() >= floor) {
                return false;
              }
              // Pages of its own object may hang on a page that is in an old entry itself.
              boolean isYoung =
                  ref.home().kind() == PageHome.Kind.ENTRY && ref.home().number() < floor;
              bytes[0] += isYoung ? ref.length() : 0;
              return isYoung || ref.below().entry() < floor;
            })
        .through(table);
    return bytes[0];
  }

  /** The tables that need entries below the floor in some state. */
  List<UUID> needing(LakeState now) {
    return tables(now).stream()
        .filter(table -> CopyChange.needs(table, floor))
        .map(TableListing::id)
        .toList();
  }

  private List<TableListing> tables(LakeState of) {
    return of.page().allByName(core.pages());
  }
}
