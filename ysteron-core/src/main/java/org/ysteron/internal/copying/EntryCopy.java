package org.ysteron.internal.copying;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/**
 * Copies what the lake remembers of its entries out of those below a floor: first the names and the
 * list of tables as they are now, so that entries to come refer to nothing old; then the names of
 * then that remembered entries have, some at a time, the oldest first. For one thread.
 */
final class EntryCopy {
  private final LakeCore core;
  private final long floor;
  private final Set<Long> kept;
  private final Copying.Committer committer;
  private final Steps steps;

  /**
   * A copying.
   *
   * @param kept entries below the floor that stay remembered
   */
  EntryCopy(LakeCore core, long floor, Set<Long> kept, Copying.Committer committer) {
    this.core = core;
    this.floor = floor;
    this.kept = kept;
    this.committer = committer;
    this.steps = new Steps(core, this::isOld, PageHome::lakePages, committer);
  }

  private boolean isOld(PageRef ref) {
    return CopyChange.isOld(ref, floor, 0);
  }

  /** Copies all but the last few; what was copied is of use to who copies the rest. */
  Steps run() {
    long next = 0;
    while (true) {
      LakeState start = core.refresh();
      List<EntryRecord> some = some(start, next);
      if (some.size() < Steps.RECORDS) {
        return steps; // these come with the floor
      }
      if (next == 0) {
        names(start);
        start = core.refresh();
      }
      EntryRecord last =
          steps.step(
              start, some, EntryRecord::page, start.page()::copyOfPast, Moved::new, this::pagesOf);
      next = last.number() + 1;
    }
  }

  /** The next remembered entries of which something is old, and that stay. */
  private List<EntryRecord> some(LakeState state, long next) {
    List<EntryRecord> some = new ArrayList<>();
    TreeCursor<EntryRecord, ?> records = state.page().entriesFrom(next, core.pages());
    while (some.size() < Steps.RECORDS && records.next()) {
      EntryRecord record = records.value();
      boolean stays = record.number() >= floor || kept.contains(record.number());
      if (stays && isOld(record.page())) {
        some.add(record);
      }
    }
    return some;
  }

  /** Copies the names of now, and the list of tables, ahead of a commit that refers to them. */
  private void names(LakeState start) {
    steps.copy(
        List.of(start.pageRef()),
        start.number(),
        (page, copies) -> {
          start.page().copiedNames(copies);
          return page;
        });
    committer.commit(
        staging ->
            staging.edit(
                LakeFeature.EXPIRY,
                (lake, own) ->
                    lake.copiedNames(
                        new PageCopies(staging.pages(), this::isOld, steps.known(), own))),
        start);
  }

  /** The old pages of names that a remembered entry has, which the next one may have, too. */
  private List<PageRef> pagesOf(EntryRecord record) {
    List<PageRef> found = new ArrayList<>();
    LakePage.read(record.page(), core.pages())
        .eachNamePage(core.pages(), ref -> isOld(ref) && found.add(ref));
    return found;
  }

  /** Remembered entries whose lake pages are elsewhere. */
  private record Moved(List<EntryRecord> records, Map<PageRef, PageRef> moved) implements Change {
    @Override
    public void apply(Staging staging) {
      PageStore pages = staging.pages();
      staging.edit(
          LakeFeature.EXPIRY,
          (lake, own) -> {
            List<Edit<EntryRecord>> edits = new ArrayList<>();
            for (EntryRecord record : records) {
              Optional<EntryRecord> now = lake.entry(record.number(), pages);
              if (now.isPresent() && now.get().page().equals(record.page())) {
                edits.add(
                    Edit.put(
                        VersionPage.versionKey(record.number()),
                        now.get().at(moved.get(record.page()))));
              }
            }
            return edits.isEmpty() ? lake : lake.withEntries(edits, pages, own);
          });
    }
  }
}
