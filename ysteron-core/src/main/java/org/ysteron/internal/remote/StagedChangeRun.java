package org.ysteron.internal.remote;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.transact.AppliedBefore;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.option.Isolation;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;

/**
 * Applies a staged change that was prepared elsewhere, as a transaction that started on its entry.
 */
public final class StagedChangeRun {
  private final LakeCore core;
  private final StagedChangeForm stagedChange;

  public StagedChangeRun(LakeCore core, StagedChangeForm stagedChange) {
    this.core = core;
    this.stagedChange = stagedChange;
  }

  /**
   * Commits it, once. What it had staged stays where it is when this fails.
   *
   * @return what it did; nothing when it was applied before
   * @throws ConflictException when it was prepared too long ago, and was not applied
   * @throws ExpiredException when nobody knows any more whether it was applied
   */
  public WriteResult run(CommitNote note) {
    try {
      return isNumberApplied() ? WriteResult.NOTHING : commit(note);
    } catch (AppliedBefore e) {
      return WriteResult.NOTHING;
    } catch (ExpiredException e) {
      return applied(e);
    } catch (ConflictException e) {
      if (e.kind() != ConflictException.Kind.SNAPSHOT_TOO_OLD) {
        throw e;
      }
      return applied(e);
    }
  }

  /** Whether its number of a named writer was applied before, which says it however long ago. */
  private boolean isNumberApplied() {
    if (stagedChange.writer().isEmpty()) {
      return false;
    }
    StagedChangeForm.Writer by = stagedChange.writer().get();
    return core.refresh()
        .page()
        .table(by.table(), core.pages())
        .map(listing -> TableHead.read(listing.head(), core.pages()))
        .flatMap(head -> head.writer(by.name(), core.pages()))
        .filter(known -> known.session() == by.session() && by.number() <= known.sequence())
        .isPresent();
  }

  private WriteResult commit(CommitNote note) {
    LakeState start = core.atEntry(stagedChange.entry());
    StagedApplication.checkLake(core, start, stagedChange);
    core.checkStart(start); // of an entry that is older only the names may be left
    ChangeSet set = new ChangeSet(core, start, Isolation.SERIALIZABLE);
    return core.startedAt(
        start,
        () -> {
          ChangeReport report = new StagedApplication(set, stagedChange).run();
          return new WriteResult(report, set.commitOnce(stagedChange.id(), note));
        });
  }

  /** What to say when it is too late: whether it was applied before, as far as versions tell. */
  private WriteResult applied(RuntimeException tooLate) {
    LakeState newest = core.refresh();
    for (UUID id : stagedChange.tables().keySet()) {
      Optional<TableListing> listing = newest.page().table(id, core.pages());
      if (listing.isPresent()) {
        TableHistory history = TableHistory.of(listing.get(), core.pages());
        for (HistoryRecord record : history.records(listing.get().version(), Integer.MAX_VALUE)) {
          if (record.commit().entry() <= stagedChange.entry()) {
            break;
          }
          if (record.commit().commitId().equals(stagedChange.id())) {
            return WriteResult.NOTHING;
          }
          if (record.marks().missing().isPresent()) {
            throw ExpiredException.ofVersion(
                listing.get().name(),
                record.version(),
                "Versions of table %s before %d have expired, so it is unknown whether one of them applied this staged change. Nothing was changed; look for its rows, and stage it again if they are missing."
                    .formatted(listing.get().name(), record.version()),
                tooLate);
          }
        }
      }
    }
    throw tooLate;
  }
}
