package org.ysteron.internal.commit;

import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.Past;
import org.ysteron.report.TableVersion;

/** Looks up in the newest state of a lake what is gone. Thread-safe. */
final class NewestPast implements Past {
  private static final int MOST_TRIES = 5;

  private final Ledger ledger;
  private final Supplier<LakeState> newest;
  private final Supplier<PageStore> pages;

  /** Set while a thread looks something up, since it may miss something itself. */
  private final ThreadLocal<Boolean> isLooking = ThreadLocal.withInitial(() -> false);

  NewestPast(Ledger ledger, Supplier<LakeState> newest, Supplier<PageStore> pages) {
    this.ledger = ledger;
    this.newest = newest;
    this.pages = pages;
  }

  @Override
  public long floor() {
    return ledger.floor();
  }

  /** What is missing while the newest state is looked at is not gone, but damaged. */
  private <T> T looking(T otherwise, Function<LakeState, T> look) {
    if (isLooking.get()) {
      return otherwise;
    }
    isLooking.set(true);
    try {
      return look.apply(newest.get());
    } finally {
      isLooking.remove();
    }
  }

  @Override
  public boolean mayForget() {
    return looking(false, state -> state.page().upkeep().horizon() > 0);
  }

  @Override
  public boolean isNeeded(PageHome object) {
    return object.kind() == PageHome.Kind.ENTRY ? isPromised(object) : isReferredTo(object);
  }

  private boolean isPromised(PageHome entry) {
    if (!Past.super.isNeeded(entry)) {
      return false;
    }
    try {
      return looking(true, state -> true); // of this lake and not of another
    } catch (DamagedException | ExpiredException e) {
      return Past.super.isNeeded(entry);
    }
  }

  /** What fails for this is told of as needed, unless the state moved on meanwhile. */
  private boolean isReferredTo(PageHome object) {
    return looking(
        true,
        first -> {
          LakeState state = first;
          for (int tries = 0; tries < MOST_TRIES; tries++) {
            try {
              return state.page().upkeep().horizon() == 0 || refers(state, object);
            } catch (DamagedException | ExpiredException e) {
              LakeState later = newest.get();
              if (later.number() == state.number()) {
                return true;
              }
              state = later;
            }
          }
          return true;
        });
  }

  private boolean refers(LakeState state, PageHome object) {
    boolean[] found = new boolean[1];
    if (object.kind() == PageHome.Kind.LAKE_PAGES) {
      new LakeWalk(
              pages.get(),
              ref -> {
                found[0] |= ref.home().equals(object);
                return !found[0];
              })
          .through(state.page(), state.pageRef());
    } else {
      state
          .page()
          .table(object.table(), pages.get())
          .ifPresent(
              table ->
                  new TableWalk(
                          pages.get(),
                          ref -> {
                            found[0] |= ref.home().equals(object);
                            return !found[0];
                          })
                      .through(table));
    }
    return found[0];
  }

  @Override
  public Optional<PageRef> version(
      UUID table, long version, UUID commit, TableVersion.Totals holds) {
    return looking(Optional.empty(), state -> version(state, table, version, commit, holds));
  }

  private Optional<PageRef> version(
      LakeState state, UUID table, long version, UUID commit, TableVersion.Totals holds) {
    TableListing listing =
        state
            .page()
            .table(table, pages.get())
            .orElseThrow(
                () ->
                    ExpiredException.ofTable(
                        table.toString(),
                        "Table %s was dropped and has expired with all its versions."
                            .formatted(table)));
    TableHistory history = TableHistory.of(listing, pages.get());
    if (history.hasExpired(version)) {
      throw history.gone(version);
    }
    Optional<HistoryRecord> found =
        history.recordOf(version).filter(record -> record.commit().commitId().equals(commit));
    if (found.isPresent() && !found.get().totals().equals(holds)) {
      throw ExpiredException.ofVersion(
          listing.name(),
          version,
          "Rows were erased from version %d of table %s while it was read. Start again."
              .formatted(version, listing.name()),
          null);
    }
    return found.map(record -> record.page().orElse(listing.page()));
  }
}
