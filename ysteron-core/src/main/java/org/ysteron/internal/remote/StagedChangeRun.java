package org.ysteron.internal.remote;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.AppliedBefore;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.option.Isolation;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;

/**
 * Applies a staged change that was prepared elsewhere, as a transaction that started on its entry.
 */
public final class StagedChangeRun {
  private final LakeCore core;
  private final StagedChangeForm stagedChange;
  private ChangeReport report = ChangeReport.NOTHING;

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
      return commit(note);
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

  private WriteResult commit(CommitNote note) {
    LakeState start = core.atEntry(stagedChange.entry());
    if (!start.hash().equals(stagedChange.hash())) {
      throw new WrongLakeException(
          core.store().location(),
          start.lakeId(),
          "This staged change was made for entry %d of another lake, or of this lake before it was restored: the entry's hash was %s and is %s here. Nothing was changed; stage it again."
              .formatted(stagedChange.entry(), stagedChange.hash(), start.hash()));
    }
    core.checkStart(start); // of an entry that is older only the names may be left
    ChangeSet set = new ChangeSet(core, start, Isolation.SERIALIZABLE);
    return core.startedAt(
        start,
        () -> {
          stagedChange.tables().forEach((id, part) -> apply(set, start, id, part));
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

  private void apply(ChangeSet set, LakeState start, UUID id, StagedChangeForm.OnTable part) {
    TableListing listing =
        start
            .page()
            .table(id, core.pages())
            .orElseThrow(
                () ->
                    new InvalidInputException(
                        "The lake had no table %s at entry %d. Nothing was changed."
                            .formatted(id, stagedChange.entry())));
    TableChange change = set.table(id, listing.name());
    for (StagedChangeForm.Seen seen : part.reads()) {
      change.reads(
          seen.condition()
              .renamed(path -> change.draft().schema().pathOf(seen.schema().find(path).id())));
    }
    List<Touch> touches = touches(change, part);
    List<StagedFile> staged = new ArrayList<>();
    for (StagedForm form : part.staged()) {
      if (!form.table().equals(id) || form.start() != stagedChange.entry()) {
        throw new InvalidInputException(
            "Rows were staged for table %s as of entry %d, but the staged change is for table %s as of entry %d. Nothing was changed; stage them for the same entry."
                .formatted(form.table(), form.start(), id, stagedChange.entry()));
      }
      form.files().forEach(file -> staged.add(known(file, change)));
    }
    if (staged.stream().map(StagedFile::id).distinct().count() < staged.size()) {
      throw new InvalidInputException(
          "The same staged rows are given twice for table %s. Nothing was changed."
              .formatted(change.name()));
    }
    if (staged.isEmpty() && touches.isEmpty()) {
      return;
    }
    checkThere(id, change.name(), staged);
    change.takeStaged(new Effect(ChangeSet.STAGED, staged, touches, List.of()));
    long rows = staged.stream().mapToLong(StagedFile::rows).sum();
    long gone = touches.stream().mapToLong(touch -> touch.rows().getLongCardinality()).sum();
    long dropped = touches.stream().filter(Touch::gone).count();
    long masked = touches.size() - dropped;
    report =
        report
            .and(StagedFile.inserted(rows, staged))
            .and(new ChangeReport(gone, 0, gone, 0, dropped, masked, 0, 0, 0));
  }

  /** Looks whether staged files are in this lake's store, several at a time. */
  private void checkThere(UUID table, String name, List<StagedFile> staged) {
    List<Runnable> looks = new ArrayList<>();
    for (StagedFile file : staged) {
      looks.add(() -> checkThere(table, name, file));
    }
    core.workers().runAll(looks);
  }

  private void checkThere(UUID table, String name, StagedFile file) {
    String object = FileEntry.objectName(table, file.start(), file.id());
    String problem;
    try (ObjectInput input = core.store().open(object)) {
      if (input.size() == file.size()) {
        return;
      }
      problem = "has %d bytes instead of %d".formatted(input.size(), file.size());
    } catch (MissingObjectException e) {
      problem = "is not there";
    }
    throw new InvalidInputException(
        "Rows were staged for table %s in %s, which %s in %s. Nothing was changed; stage them again in this lake."
            .formatted(name, object, problem, core.store().location()));
  }

  /** A staged file that was written by the form that the table had then. */
  private StagedFile known(StagedFile file, TableChange change) {
    boolean same =
        file.form().schema() == change.draft().schemaVersion()
            && file.form().layout() == change.draft().layoutVersion();
    if (!same) {
      throw new InvalidInputException(
          "Rows were staged for table %s with schema %d and layout %d, but at entry %d it had schema %d and layout %d. Nothing was changed; stage them again."
              .formatted(
                  change.name(),
                  file.form().schema(),
                  file.form().layout(),
                  stagedChange.entry(),
                  change.draft().schemaVersion(),
                  change.draft().layoutVersion()));
    }
    return file;
  }

  private List<Touch> touches(TableChange change, StagedChangeForm.OnTable part) {
    Map<FileEntry, RoaringBitmap> removed = new LinkedHashMap<>();
    PageTree<FileEntry, FileSummary> tree = change.draft().fileTree(core.pages());
    for (StagedChangeForm.Removal removal : part.removals()) {
      Optional<FileEntry> entry = tree.get(removal.key());
      RoaringBitmap rows = removal.rows().clone();
      boolean there = entry.isPresent() && !rows.isEmpty();
      if (there) {
        RoaringBitmap live = change.live(entry.get());
        there = rows.getLongCardinality() == RoaringBitmap.andCardinality(rows, live);
      }
      if (!there) {
        throw new InvalidInputException(
            "Rows to be removed from table %s did not exist at entry %d. Nothing was changed."
                .formatted(change.name(), stagedChange.entry()));
      }
      removed.merge(entry.get(), rows, (one, other) -> RoaringBitmap.or(one, other));
    }
    List<Touch> touches = new ArrayList<>();
    removed.forEach(
        (entry, rows) ->
            touches.add(new Touch(entry, rows, rows.getLongCardinality() == entry.liveRows())));
    return touches;
  }
}
