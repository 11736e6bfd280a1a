package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.ErasureRecord;
import org.ysteron.internal.lake.ExpiredRun;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.SharedEdits;
import org.ysteron.internal.work.StoreFailures;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;
import org.ysteron.store.StoreException;

/**
 * Takes rows out of every kept version of a table at once: files that were written anew without
 * them take the place of those that have them, where rows that are left stay at their positions, so
 * that numbers, serials, births and masks remain true; and texts of the commits that changed the
 * table go. Whoever started before this commit cannot commit after it, since he may have copied
 * such rows. Files are searched and written ahead of the commit; what others commit meanwhile is
 * searched before it is built upon. For one thread.
 */
final class ErasureChange implements Change {
  private final LakeCore core;
  private final ErasureRecord erasure;
  private final RowSearch search;
  private final boolean redactsAuthors;
  private final long start;
  private final Function<LakeState, Losses> guard;
  private final Map<String, StagedFile> anew = new HashMap<>();
  private ErasureRecord cleared;

  /**
   * An erasure.
   *
   * @param erasure as it was opened
   * @param start the entry from which this started
   * @param guard what a state loses; refuses one in which rows are not to be erased, and is asked
   *     of each that this is applied to
   */
  ErasureChange(
      LakeCore core,
      ErasureRecord erasure,
      RowSearch search,
      boolean redactsAuthors,
      long start,
      Function<LakeState, Losses> guard) {
    this.guard = guard;
    this.core = core;
    this.erasure = erasure;
    this.search = search;
    this.redactsAuthors = redactsAuthors;
    this.start = start;
  }

  /** Deletes the files that were written anew, when this will not be committed. */
  void discard() {
    for (StagedFile file : anew.values()) {
      String name = FileEntry.objectName(erasure.table(), file.start(), file.id());
      try {
        core.store().delete(name);
      } catch (StoreException e) {
        StoreFailures.log(name, e); // a sweep finds it
      }
    }
    anew.clear();
  }

  /** What is known of the erasure once this is committed. */
  ErasureRecord cleared() {
    return cleared;
  }

  @Override
  public boolean isPrepared(LakeState base) {
    return search.hasSeen(base);
  }

  /** Searches what is new, and writes anew what has such rows. */
  @Override
  public void prepare(LakeState newest) {
    TableListing table =
        newest
            .page()
            .table(erasure.table(), core.pages())
            .orElseThrow(
                () ->
                    new NotFoundException(
                        NotFoundException.Kind.TABLE,
                        erasure.table().toString(),
                        "The table has expired with all its versions while its rows were to be erased, so the rows are gone."));
    search.look(newest);
    Watch.Step step =
        core.watch()
            .step("rewrite files without the rows", Progress.Unit.FILES, search.matches().size());
    VersionPage page = VersionPage.read(table.page(), core.pages());
    search
        .matches()
        .forEach(
            (object, match) -> {
              step.add(1);
              if (!match.isWhole() && !anew.containsKey(object)) {
                anew.put(
                    object,
                    new FileRewrite(core, page, match.file(), match.positions(), start).run());
              }
            });
  }

  @Override
  public void apply(Staging staging) {
    PageStore pages = staging.pages();
    LakePage lake = staging.base().page();
    boolean isOpen =
        lake.upkeep().erasures(pages).stream()
            .anyMatch(
                known -> known.id().equals(erasure.id()) && known.cleared() == erasure.cleared());
    if (!isOpen) {
      throw new NothingToDo(); // somebody else goes on with it
    }
    prepare(staging.base());
    Losses losses = guard.apply(staging.base());
    TableListing table = staging.table(erasure.table()).orElseThrow();
    TableHistory history = TableHistory.of(table, pages);
    Redaction redaction = new Redaction(core, table.id(), history.all(), redactsAuthors);
    OfTable change = new OfTable(staging, table, history, redaction);
    change.erase();
    Set<UUID> renewed = new HashSet<>(Set.of(table.id()));
    for (TableListing other : lake.allByName(pages)) {
      if (!other.id().equals(table.id()) && isRedacted(staging, other, redaction)) {
        renewed.add(other.id());
      }
    }
    long entry = staging.commit().entry();
    List<Edit<FreeObject>> freed = new ArrayList<>();
    losses
        .files()
        .forEach(
            (object, file) -> {
              FreeObject free = FreeObject.of(entry, object, file.size());
              freed.add(Edit.put(free.key(), free));
            });
    cleared =
        erasure.clearedBy(
            entry,
            renewed,
            new ErasureRecord.Counts(
                losses.files().size(),
                losses.rows(),
                losses.versions(),
                redaction.texts(),
                losses.bookmarks()));
    staging.edit(
        LakeFeature.EXPIRY,
        (now, own) ->
            now.withEntries(entries(now, redaction, pages), pages, own)
                .with(
                    now.upkeep()
                        .withHorizon(Math.max(entry, now.upkeep().horizon()))
                        .withFree(freed, pages, own)));
    staging.edit(
        LakeFeature.ERASURE,
        (now, own) ->
            now.with(now.upkeep().withErasure(Edit.put(cleared.key(), cleared), pages, own)));
  }

  /** The records of entries whose commits changed the table. */
  private static List<Edit<EntryRecord>> entries(
      LakePage lake, Redaction redaction, PageStore pages) {
    List<Edit<EntryRecord>> edits = new ArrayList<>();
    var records = lake.entriesFrom(0, pages);
    while (records.next()) {
      EntryRecord record = records.value();
      if (record.commits().stream().anyMatch(redaction::isMeant)) {
        List<CommitStamp> less = record.commits().stream().map(redaction::ofAny).toList();
        edits.add(Edit.put(VersionPage.versionKey(record.number()), record.redacted(less)));
      }
    }
    return edits;
  }

  /** Redacts another table's texts of commits that changed this one, too. */
  private static boolean isRedacted(Staging staging, TableListing other, Redaction redaction) {
    TableHistory history = TableHistory.of(other, staging.pages());
    Remade remade = new Remade(staging, other);
    for (HistoryRecord record : history.all()) {
      if (redaction.isMeant(record.commit())) {
        HistoryRecord less = record.redacted(redaction.of(record.commit()), record.totals());
        remade.put(less, history.pageOf(record).redacted(less.inItsPage()));
      }
    }
    if (remade.isSame()) {
      return false;
    }
    remade.end(remade.head.expired());
    return true;
  }

  /** A table some of whose versions have other pages now. */
  private static final class Remade {
    private final Staging staging;
    private final TableHead head;
    private final List<Edit<HistoryRecord>> records = new ArrayList<>();
    private TableListing listing;
    private boolean isSame = true;

    Remade(Staging staging, TableListing table) {
      this.staging = staging;
      this.head = TableHead.read(table.head(), staging.pages());
      this.listing = table;
    }

    /** Puts a version in its place, which its record tells. */
    void put(HistoryRecord record, VersionPage page) {
      isSame = false;
      PageRef ref = page.write(batch());
      if (record.page().isEmpty()) {
        listing = listing.with(ref, listing.head()).withTotals(record.totals());
      } else {
        records.add(Edit.put(VersionPage.versionKey(record.version()), record.at(ref)));
      }
    }

    /** Asked for only when something goes into it: none may stay empty. */
    private PageBatch batch() {
      return staging.batch(listing.id());
    }

    boolean isSame() {
      return isSame;
    }

    /** Puts the table in its place, with what it is to remember of expired versions. */
    void end(List<ExpiredRun> runs) {
      PageRef changed = head.redacted(records, runs, staging.pages(), batch()).write(batch());
      staging.replace(listing.with(listing.page(), changed));
    }
  }

  /** The versions of the table. */
  private final class OfTable {
    private final PageStore pages;
    private final PageBatch batch;
    private final TableListing table;
    private final TableHistory history;
    private final Redaction redaction;
    private final Remade remade;
    private final List<Long> schemas = new ArrayList<>();
    private final List<Long> layouts = new ArrayList<>();
    private final Map<FileEntry, Optional<FileEntry>> changed = new HashMap<>();
    private final SharedEdits<FileEntry, FileSummary> edits;

    OfTable(Staging staging, TableListing table, TableHistory history, Redaction redaction) {
      this.pages = staging.pages();
      this.batch = staging.batch(table.id());
      this.table = table;
      this.history = history;
      this.redaction = redaction;
      this.remade = new Remade(staging, table);
      for (FormLiterals.Form form : search.unneeded()) {
        (form.isLayout() ? layouts : schemas).add(form.number());
      }
      this.edits =
          new SharedEdits<>(
              pages,
              FileFormat.INSTANCE,
              search.keys(),
              file ->
                  isMeant(file) ? changed.computeIfAbsent(file, this::erased) : Optional.of(file),
              batch);
    }

    private boolean isMeant(FileEntry file) {
      return search.matches().containsKey(file.objectName(table.id()));
    }

    private Optional<FileEntry> erased(FileEntry file) {
      String object = file.objectName(table.id());
      RowSearch.Match match = search.matches().get(object);
      return match.isWhole()
          ? Optional.empty()
          : Optional.of(file.erased(anew.get(object), match.positions(), pages, batch));
    }

    void erase() {
      for (HistoryRecord record : history.all()) {
        VersionPage page = history.pageOf(record);
        PageTree.Root files = edits.in(page.files());
        // Nor does it remember older forms in which values of the rows are written.
        VersionPage formed = page.withoutForms(schemas, layouts, pages, batch);
        boolean hasTexts = redaction.isMeant(record.commit());
        boolean isChanged = !files.equals(page.files());
        if (!hasTexts && !isChanged && formed.equals(page) && page.statistics().isEmpty()) {
          continue;
        }
        HistoryRecord less = record;
        if (hasTexts || isChanged) {
          CommitStamp commit = hasTexts ? redaction.of(record.commit()) : record.commit();
          less = record.redacted(commit, isChanged ? totals(page, files) : record.totals());
        }
        remade.put(less, formed.redacted(files, less.inItsPage()));
      }
      List<ExpiredRun> runs = remade.head.expired();
      remade.end(
          redaction.authors()
              ? runs.stream().map(run -> run.by(Redaction.REDACTED)).toList()
              : runs);
    }

    /** What a version holds whose files are others now. */
    private TableVersion.Totals totals(VersionPage page, PageTree.Root files) {
      TableVersion.Totals[] totals = {page.record().totals()};
      page.fileTree(pages)
          .diff(new PageTree<>(pages, FileFormat.INSTANCE, files))
          .each(
              change -> {
                FileEntry before = change.before().orElseThrow();
                Optional<FileEntry> after = change.after();
                totals[0] =
                    totals[0].plus(
                        after.isPresent() ? 0 : -1,
                        after.map(FileEntry::liveRows).orElse(0L) - before.liveRows(),
                        after.map(FileEntry::size).orElse(0L) - before.size());
              });
      return totals[0];
    }
  }
}
