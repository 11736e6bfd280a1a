package org.ysteron.internal.remote;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.statement.Selection;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.transact.WriterStep;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.report.ChangeReport;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;

/** Takes a staged change into a change set that started on the same entry. For one thread. */
public final class StagedApplication {
  private final ChangeSet set;
  private final LakeCore core;
  private final StagedChangeForm form;
  private ChangeReport report = ChangeReport.NOTHING;

  public StagedApplication(ChangeSet set, StagedChangeForm form) {
    this.set = set;
    this.core = set.core();
    this.form = form;
  }

  /** Refuses a staged change that was made for another lake than that of a state. */
  static void checkLake(LakeCore core, LakeState state, StagedChangeForm form) {
    if (!state.hash().equals(form.hash())) {
      throw new WrongLakeException(
          core.store().location(),
          state.lakeId(),
          "This staged change was made for entry %d of another lake, or of this lake before it was restored: the entry's hash was %s and is %s here. Nothing was changed; stage it again."
              .formatted(form.entry(), form.hash(), state.hash()));
    }
  }

  /**
   * Takes it.
   *
   * @return what it does
   */
  public ChangeReport run() {
    LakeState start = set.start();
    if (start.number() != form.entry()) {
      throw new InvalidInputException(
          "The transaction started on entry %d, but the change was staged for entry %d. Nothing was changed; stage it for the transaction's start."
              .formatted(start.number(), form.entry()));
    }
    checkLake(core, start, form);
    form.tables().forEach(this::apply);
    form.writer().ifPresent(this::step);
    return report;
  }

  private void step(StagedChangeForm.Writer writer) {
    TableChange change =
        set.opened(writer.table())
            .orElseThrow(
                () ->
                    new InvalidInputException(
                        "The lake had no table %s of writer %s at entry %d. Nothing was changed."
                            .formatted(writer.table(), writer.name(), form.entry())));
    if (change.isCreated()) {
      throw new InvalidInputException(
          "Table %s is created in this transaction and has no sessions of writer %s yet. Nothing was changed; create it in a commit of its own."
              .formatted(change.name(), writer.name()));
    }
    change.step(
        new WriterStep(writer.name(), writer.session(), writer.number(), ""),
        ChangeSet.staged(form.word()));
  }

  private void apply(UUID id, StagedChangeForm.OnTable part) {
    TableChange change =
        set.opened(id)
            .orElseThrow(
                () ->
                    new InvalidInputException(
                        "The lake had no table %s at entry %d. Nothing was changed."
                            .formatted(id, form.entry())));
    for (StagedChangeForm.Seen seen : part.reads()) {
      change.reads(here(change, seen));
    }
    List<Read> reads = new ArrayList<>();
    List<Touch> touches = touches(change, part, reads);
    List<StagedFile> staged = new ArrayList<>();
    for (StagedForm rows : part.staged()) {
      if (!rows.table().equals(id) || rows.start() != form.entry()) {
        throw new InvalidInputException(
            "Rows were staged for table %s as of entry %d, but the staged change is for table %s as of entry %d. Nothing was changed; stage them for the same entry."
                .formatted(rows.table(), rows.start(), id, form.entry()));
      }
      rows.files().forEach(file -> staged.add(known(file, change)));
    }
    if (staged.stream().map(StagedFile::id).distinct().count() < staged.size()) {
      throw new InvalidInputException(
          "The same staged rows are given twice for table %s. Nothing was changed."
              .formatted(change.name()));
    }
    if (staged.isEmpty() && touches.isEmpty()) {
      reads.forEach(change::readOnly);
      return;
    }
    checkThere(id, change.name(), staged);
    Effect effect = new Effect(ChangeSet.staged(form.word()), staged, touches, reads);
    long changed = new StagedSerials(change, staged, touches).changed(effect);
    change.takeStaged(effect);
    long rows = staged.stream().mapToLong(StagedFile::rows).sum();
    long gone = touches.stream().mapToLong(touch -> touch.rows().getLongCardinality()).sum();
    long dropped = touches.stream().filter(Touch::gone).count();
    long masked = touches.size() - dropped;
    report =
        report
            .and(StagedFile.inserted(rows - changed, staged))
            .and(new ChangeReport(gone, changed, gone - changed, 0, dropped, masked, 0, 0, 0));
  }

  /** A condition in the names that columns have here. */
  private static Condition here(TableChange change, StagedChangeForm.Seen seen) {
    return seen.condition()
        .renamed(path -> change.draft().schema().pathOf(seen.schema().find(path).id()));
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
                  form.entry(),
                  change.draft().schemaVersion(),
                  change.draft().layoutVersion()));
    }
    return file;
  }

  private List<Touch> touches(TableChange change, StagedChangeForm.OnTable part, List<Read> reads) {
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
                .formatted(change.name(), form.entry()));
      }
      removed.merge(entry.get(), rows, (one, other) -> RoaringBitmap.or(one, other));
    }
    for (StagedChangeForm.Seen seen : part.removed()) {
      Selection selection = Selection.UNTOLD.where(here(change, seen));
      reads.add(
          selection.find(
              change,
              "remove rows of files",
              (file, rows) ->
                  removed.merge(
                      file,
                      rows == null ? change.live(file) : rows,
                      (one, other) -> RoaringBitmap.or(one, other))));
    }
    List<Touch> touches = new ArrayList<>();
    removed.forEach(
        (entry, rows) ->
            touches.add(new Touch(entry, rows, rows.getLongCardinality() == entry.liveRows())));
    return touches;
  }
}
