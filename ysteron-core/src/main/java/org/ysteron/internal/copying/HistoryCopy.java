package org.ysteron.internal.copying;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/**
 * Copies the earlier versions of a table out of entries below a floor, some at a time, the oldest
 * first. A version that has expired meanwhile is passed over. For one thread.
 */
final class HistoryCopy {
  private final LakeCore core;
  private final UUID id;
  private final long floor;
  private final Steps steps;

  HistoryCopy(LakeCore core, UUID id, long floor, Copying.Committer committer) {
    this.core = core;
    this.id = id;
    this.floor = floor;
    this.steps =
        new Steps(
            core,
            this::isOld,
            (start, object) -> PageHome.tablePages(id, start, object),
            committer);
  }

  private boolean isOld(PageRef ref) {
    return CopyChange.isOld(ref, floor, 0);
  }

  /** Copies all but the last few; what was copied is of use to who copies the rest. */
  Steps run() {
    long next = 0;
    while (true) {
      LakeState start = core.refresh();
      List<HistoryRecord> some = some(start, next);
      if (some.size() < Steps.RECORDS) {
        return steps; // these come with the rest of the table
      }
      HistoryRecord last =
          steps.step(
              start,
              some,
              record -> record.page().orElseThrow(),
              TableHead::copyOfVersion,
              Moved::new,
              this::pagesOf);
      next = last.version() + 1;
    }
  }

  /** The next versions of which something is old. */
  private List<HistoryRecord> some(LakeState state, long next) {
    PageStore pages = core.pages();
    List<HistoryRecord> some = new ArrayList<>();
    Optional<TableListing> listing = state.page().table(id, pages);
    if (listing.isEmpty() || !isOld(listing.get().head())) {
      return some;
    }
    TreeCursor<HistoryRecord, ?> records =
        TableHead.read(listing.get().head(), pages)
            .historyTree(pages)
            .cursorFrom(VersionPage.versionKey(next));
    while (some.size() < Steps.RECORDS && records.next()) {
      if (records.value().page().filter(this::isOld).isPresent()) {
        some.add(records.value());
      }
    }
    return some;
  }

  /** The old pages of files that a version has, which the next one may have, too. */
  private List<PageRef> pagesOf(HistoryRecord record) {
    List<PageRef> found = new ArrayList<>();
    VersionPage page = VersionPage.read(record.page().orElseThrow(), core.pages());
    PageCopies.eachLeaf(
        core.pages(),
        FileFormat.INSTANCE,
        page.files(),
        ref -> isOld(ref) && found.add(ref),
        (ref, count) -> {});
    return found;
  }

  /** Versions whose pages are elsewhere. */
  private final class Moved implements Change {
    private final List<HistoryRecord> records;
    private final Map<PageRef, PageRef> moved;

    Moved(List<HistoryRecord> records, Map<PageRef, PageRef> moved) {
      this.records = records;
      this.moved = moved;
    }

    @Override
    public void apply(Staging staging) {
      PageStore pages = staging.pages();
      TableListing listing = staging.table(id).orElseThrow(NothingToDo::new);
      TableHead head = TableHead.read(listing.head(), pages);
      List<Edit<HistoryRecord>> edits = new ArrayList<>();
      for (HistoryRecord record : records) {
        byte[] key = VersionPage.versionKey(record.version());
        Optional<HistoryRecord> now = head.historyTree(pages).get(key);
        if (now.isPresent() && now.get().page().equals(record.page())) {
          edits.add(Edit.put(key, now.get().at(moved.get(record.page().orElseThrow()))));
        }
      }
      if (edits.isEmpty()) {
        throw new NothingToDo();
      }
      TableHead changed = head.redacted(edits, head.expired(), pages, staging.batch(id));
      staging.replace(listing.with(listing.page(), changed.write(staging.batch(id))));
      staging.edit(LakeFeature.EXPIRY, (lake, own) -> lake);
    }
  }
}
