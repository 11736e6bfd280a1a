package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Consumer;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.ErasureRecord;
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
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

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
  private final Consumer<LakeState> guard;
  private final Map<String, StagedFile> anew = new HashMap<>();
  private long versions;
  private ErasureRecord cleared;

  /**
   * An erasure.
   *
   * @param erasure as it was opened
   * @param start the entry from which this started
   * @param guard refuses a state in which rows are not to be erased; asked of each that this is
   *     applied to
   */
  ErasureChange(
      LakeCore core,
      ErasureRecord erasure,
      RowSearch search,
      boolean redactsAuthors,
      long start,
      Consumer<LakeState> guard) {
    this.guard = guard;
    this.core = core;
    this.erasure = erasure;
    this.search = search;
    this.redactsAuthors = redactsAuthors;
    this.start = start;
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
    TableListing table = listing(newest.page().table(erasure.table(), core.pages()));
    search.look(newest);
    VersionPage page = VersionPage.read(table.page(), core.pages());
    search
        .matches()
        .forEach(
            (object, match) -> {
              if (!match.isWhole() && !anew.containsKey(object)) {
                anew.put(
                    object,
                    new FileRewrite(core, page, match.file(), match.positions(), start).run());
              }
            });
  }

  private static TableListing listing(Optional<TableListing> table) {
    return table.orElseThrow(
        () ->
            new NotFoundException(
                "The table whose rows were to be erased has expired as a whole meanwhile, with all of them."));
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
    guard.accept(staging.base());
    TableListing table = listing(staging.table(erasure.table()));
    TableHistory history = TableHistory.of(table, pages);
    Redaction redaction = new Redaction(core, table.id(), history.all(), redactsAuthors);
    versions = 0;
    OfTable change = new OfTable(staging, table, history, redaction);
    staging.replace(change.erased());
    Set<UUID> renewed = new HashSet<>(Set.of(table.id()));
    for (TableListing other : lake.allByName(pages)) {
      if (!other.id().equals(table.id()) && isRedacted(staging, other, redaction)) {
        renewed.add(other.id());
      }
    }
    long entry = staging.commit().entry();
    List<Edit<FreeObject>> freed = new ArrayList<>();
    change.met.forEach(
        (object, file) -> {
          FreeObject free = FreeObject.of(entry, object, file.size());
          freed.add(Edit.put(free.key(), free));
        });
    cleared =
        erasure.clearedBy(
            entry,
            renewed,
            new ErasureRecord.Counts(
                change.met.size(), change.rows(), versions, redaction.texts()));
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
    PageStore pages = staging.pages();
    TableHistory history = TableHistory.of(other, pages);
    List<Edit<HistoryRecord>> edits = new ArrayList<>();
    PageRef newest = other.page();
    for (HistoryRecord record : history.all()) {
      if (redaction.isMeant(record.commit())) {
        HistoryRecord less = record.redacted(redaction.of(record.commit()), record.totals());
        VersionPage page = history.pageOf(record);
        PageRef ref = page.redacted(less.inItsPage()).write(staging.batch(other.id()));
        if (record.page().isEmpty()) {
          newest = ref;
        } else {
          edits.add(Edit.put(VersionPage.versionKey(record.version()), less.at(ref)));
        }
      }
    }
    if (edits.isEmpty() && newest.equals(other.page())) {
      return false;
    }
    TableHead head = TableHead.read(other.head(), pages);
    PageBatch batch = staging.batch(other.id());
    staging.replace(
        other.with(newest, head.redacted(edits, head.expired(), pages, batch).write(batch)));
    return true;
  }

  /** The versions of the table. */
  private final class OfTable {
    private final PageStore pages;
    private final PageBatch batch;
    private final TableListing table;
    private final TableHistory history;
    private final Redaction redaction;
    private final SortedMap<byte[], FileEntry> keys = new TreeMap<>(Arrays::compareUnsigned);
    private final Map<FileEntry, Optional<FileEntry>> changed = new HashMap<>();
    private final Map<UUID, RoaringBitmap> counting = new HashMap<>();

    /** The files that have such rows, by their names in the store. */
    private final Map<String, FileEntry> met = new TreeMap<>();

    private final SharedEdits<FileEntry, FileSummary> edits;

    OfTable(Staging staging, TableListing table, TableHistory history, Redaction redaction) {
      this.pages = staging.pages();
      this.batch = staging.batch(table.id());
      this.table = table;
      this.history = history;
      this.redaction = redaction;
      search.matches().values().forEach(match -> keys.put(match.file().key(), match.file()));
      this.edits =
          new SharedEdits<>(
              pages,
              FileFormat.INSTANCE,
              List.copyOf(keys.keySet()),
              file ->
                  isMeant(file) ? changed.computeIfAbsent(file, this::erased) : Optional.of(file),
              batch);
    }

    private boolean isMeant(FileEntry file) {
      return search.matches().containsKey(file.objectName(table.id()));
    }

    /** How many rows counted in one version at least. */
    long rows() {
      return counting.values().stream().mapToLong(RoaringBitmap::getLongCardinality).sum();
    }

    private Optional<FileEntry> erased(FileEntry file) {
      counting
          .computeIfAbsent(file.id(), id -> new RoaringBitmap())
          .or(search.counting(file, pages));
      String object = file.objectName(table.id());
      RowSearch.Match match = search.matches().get(object);
      met.put(object, file);
      return match.isWhole()
          ? Optional.empty()
          : Optional.of(file.erased(anew.get(object), match.positions(), pages, batch));
    }

    TableListing erased() {
      List<Edit<HistoryRecord>> records = new ArrayList<>();
      TableListing listing = table;
      for (HistoryRecord record : history.all()) {
        VersionPage page = history.pageOf(record);
        PageTree.Root files = edits.in(page.files());
        VersionPage formed = withoutUnneeded(page);
        boolean hasTexts = redaction.isMeant(record.commit());
        boolean isChanged = !files.equals(page.files());
        if (!hasTexts && !isChanged && formed.equals(page) && page.statistics().isEmpty()) {
          continue;
        }
        HistoryRecord less = record;
        if (hasTexts || isChanged) {
          versions++;
          CommitStamp commit = hasTexts ? redaction.of(record.commit()) : record.commit();
          less = record.redacted(commit, isChanged ? totals(page, files) : record.totals());
        }
        PageRef ref = formed.redacted(files, less.inItsPage()).write(batch);
        if (record.page().isEmpty()) {
          listing = listing.with(ref, table.head()).withTotals(less.totals());
        } else {
          records.add(Edit.put(VersionPage.versionKey(record.version()), less.at(ref)));
        }
      }
      TableHead head = TableHead.read(table.head(), pages);
      var runs = head.expired();
      if (redaction.authors()) {
        runs = runs.stream().map(run -> run.by(Redaction.REDACTED)).toList();
      }
      return listing.with(listing.page(), head.redacted(records, runs, pages, batch).write(batch));
    }

    /** A version that does not remember older forms in which values of the rows are written. */
    private VersionPage withoutUnneeded(VersionPage page) {
      List<Long> schemas = new ArrayList<>();
      List<Long> layouts = new ArrayList<>();
      for (FormLiterals.Form form : search.unneeded()) {
        (form.isLayout() ? layouts : schemas).add(form.number());
      }
      return page.withoutForms(schemas, layouts, pages, batch);
    }

    /** What a version holds whose files are others now. */
    private TableVersion.Totals totals(VersionPage page, PageTree.Root files) {
      TableVersion.Totals totals = page.record().totals();
      var diff = page.fileTree(pages).diff(new PageTree<>(pages, FileFormat.INSTANCE, files));
      for (var next = diff.next(); next.isPresent(); next = diff.next()) {
        FileEntry before = next.get().before().orElseThrow();
        Optional<FileEntry> after = next.get().after();
        totals =
            totals.plus(
                after.isPresent() ? 0 : -1,
                after.map(FileEntry::liveRows).orElse(0L) - before.liveRows(),
                after.map(FileEntry::size).orElse(0L) - before.size());
      }
      return totals;
    }
  }
}
