package org.ysteron.internal.commit;

import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.Past;

/** Looks up in the newest state of a lake what is gone. Thread-safe. */
final class NewestPast implements Past {
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
  public long pagesFrom(Optional<UUID> table) {
    return looking(
        0L,
        state ->
            table.isEmpty()
                ? state.page().upkeep().pagesFrom()
                : state
                    .page()
                    .table(table.get(), pages.get())
                    .map(TableListing::pagesFrom)
                    .orElse(Long.MAX_VALUE)); // dropped, and let go as a whole
  }

  @Override
  public Optional<PageTree.Root> files(UUID table, long version, UUID commit) {
    return looking(Optional.empty(), state -> files(state, table, version, commit));
  }

  private Optional<PageTree.Root> files(LakeState state, UUID table, long version, UUID commit) {
    TableListing listing =
        state
            .page()
            .table(table, pages.get())
            .orElseThrow(
                () ->
                    new ExpiredException(
                        "The table %s was dropped, and has expired with all its versions."
                            .formatted(table)));
    TableHistory history = TableHistory.of(listing, pages.get());
    if (history.hasExpired(version)) {
      throw history.gone(version);
    }
    return history
        .recordOf(version)
        .filter(record -> record.commit().commitId().equals(commit))
        .map(record -> history.pageOf(record).files());
  }
}
