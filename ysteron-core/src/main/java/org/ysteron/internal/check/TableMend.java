package org.ysteron.internal.check;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.NavigableSet;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.file.FileProof;
import org.ysteron.internal.lake.ExpiredRun;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.proof.MendReport;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

/**
 * Builds what a table knows of its past anew from what can be read of it. Versions whose pages are
 * lost are gone then as if they had expired; when the newest is among them, what can be read of it
 * becomes the next version, or when its form cannot, the newest one before it. For one thread.
 */
final class TableMend implements Change {
  private final LakeCore core;
  private final UUID id;
  private final List<MendReport.LostVersions> lost = new ArrayList<>();
  private final List<String> forgotten = new ArrayList<>();

  TableMend(LakeCore core, UUID id) {
    this.core = core;
    this.id = id;
  }

  /** The versions that are lost, once this was applied. */
  List<MendReport.LostVersions> lost() {
    return lost;
  }

  /** What else goes with them, in words. */
  List<String> forgotten() {
    return forgotten;
  }

  @Override
  public void apply(Staging staging) {
    lost.clear();
    forgotten.clear();
    TableListing table = staging.table(id).orElseThrow(NothingToDo::new);
    PageStore pages = new PageStore(core.store(), core.pages().past());
    Salvage salvage = Salvage.of(table, pages, core.workers());
    List<HistoryRecord> kept = salvage.records();
    boolean isNothingLeft =
        salvage.newest().isEmpty() && salvage.rest().isEmpty() && kept.isEmpty();
    if (salvage.isWhole()) {
      throw new NothingToDo();
    }
    Optional<VersionPage> older = isNothingLeft ? older(staging, table, pages) : Optional.empty();
    if (isNothingLeft && older.isEmpty()) {
      throw new NothingToDo(); // beyond this
    }
    PageBatch batch = staging.batch(id);
    long last = salvage.newest().isPresent() ? table.version() - 1 : table.version();
    Optional<VersionPage> from =
        salvage.newest().isPresent()
            ? Optional.empty()
            : Optional.of(older.orElseGet(() -> best(salvage, kept, staging, pages)));
    long rows =
        from.map(page -> Math.max(0, table.totals().rows() - page.record().totals().rows()))
            .orElse(0L);
    Gaps gaps = new Gaps(table, salvage, staging.commit(), rows);
    List<HistoryRecord> told = new ArrayList<>();
    long next = 0;
    Instant before = null;
    for (HistoryRecord record : kept) {
      boolean isAfterGap = gaps.add(next, record.version() - 1);
      HistoryRecord there = readable(record, salvage, pages, batch);
      told.add(isAfterGap ? there.afterGap(missing(record, before)) : there);
      next = record.version() + 1;
      before = record.commit().time();
    }
    boolean endsInGap = gaps.add(next, last);
    TableHead head =
        TableHead.of(
            id,
            told,
            salvage.writers(),
            ExpiredRun.united(salvage.expired(), gaps.runs),
            salvage.others(),
            staging.pages(),
            batch);
    forget(staging, table, salvage, kept);
    if (salvage.newest().isPresent()) {
      VersionPage newest = salvage.newest().get();
      HistoryRecord own = newest.record();
      VersionPage there = salvage.readable(newest);
      PageRef page =
          endsInGap
              ? there.afterGap(missing(own, before)).write(batch)
              : there.equals(newest) ? table.page() : there.write(batch);
      staging.replace(table.with(page, head.write(batch)));
      return;
    }
    Instant missing = before == null ? Instant.EPOCH : before.plusNanos(1000);
    VersionPage made =
        from.orElseThrow().inPlaceOf(table.version(), table.name(), staging.commit(), missing);
    PageRef page = made.write(batch);
    staging.replace(table.mended(made, page, head.write(batch)), made);
  }

  /** The record of a version, whose page is made anew without statistics that are lost. */
  private static HistoryRecord readable(
      HistoryRecord record, Salvage salvage, PageStore pages, PageBatch batch) {
    if (!salvage.lacksStatistics()) {
      return record;
    }
    VersionPage page = VersionPage.read(record.page().orElseThrow(), pages);
    VersionPage readable = salvage.readable(page);
    return readable.equals(page) ? record : record.at(readable.write(batch));
  }

  /** What is left of the newest version, or the newest before it, whichever has more rows. */
  private VersionPage best(
      Salvage salvage, List<HistoryRecord> kept, Staging staging, PageStore pages) {
    Optional<HistoryRecord> before =
        kept.isEmpty() ? Optional.empty() : Optional.of(kept.get(kept.size() - 1));
    Optional<Salvage.Rest> rest =
        salvage
            .rest()
            .filter(left -> before.map(last -> last.totals().rows() <= left.rows()).orElse(true));
    return rest.map(left -> left(left, staging))
        .orElseGet(() -> VersionPage.read(before.orElseThrow().page().orElseThrow(), pages));
  }

  /** Lets go of what names lost versions, and tells it. */
  private void forget(
      Staging staging, TableListing table, Salvage salvage, List<HistoryRecord> kept) {
    if (salvage.lacksStatistics()) {
      forgotten.add(
          "The column statistics of table %s are lost. Measure it again.".formatted(table.name()));
    }
    if (salvage.lacksWriters()) {
      forgotten.add(
          "Sequence numbers of named writers of table %s are lost, so rows that a writer sends again would be appended twice."
              .formatted(table.name()));
    }
    for (HoldRecord hold : staging.base().page().upkeep().holds(staging.pages())) {
      Long version = hold.versions().get(id);
      boolean isThere =
          version == null
              || (version == table.version() && salvage.newest().isPresent())
              || kept.stream().anyMatch(record -> record.version() == version);
      if (!isThere) {
        forgotten.add(
            "%s of version %d of table %s, which is lost."
                .formatted(
                    hold.kind() == HoldRecord.BOOKMARK
                        ? "The bookmark " + hold.name()
                        : "The " + hold.label(),
                    version,
                    table.name()));
        staging.edit(
            LakeFeature.HOLDS,
            (lake, own) ->
                lake.with(lake.upkeep().withHold(hold.without(id), staging.pages(), own)));
      }
    }
  }

  /**
   * What the table was when an earlier entry was the newest, as its own lake page tells, if all of
   * its files are still there and needed.
   */
  private Optional<VersionPage> older(Staging staging, TableListing table, PageStore pages) {
    UpkeepState upkeep = staging.base().page().upkeep();
    Optional<VersionPage> found = Optional.empty();
    for (long n = staging.base().number() - 1; n >= upkeep.floor() && found.isEmpty(); n--) {
      found = then(n, table, upkeep, pages);
    }
    return found;
  }

  /** What the table was after an entry; empty when that is lost, too, or nothing else. */
  private Optional<VersionPage> then(
      long entry, TableListing table, UpkeepState upkeep, PageStore pages) {
    try {
      return LakePage.read(core.entry(entry).page(), pages)
          .table(id, pages)
          .filter(then -> !then.page().equals(table.page()))
          .flatMap(then -> Salvage.whole(then.page(), pages))
          .filter(version -> hasItsFiles(version, upkeep, pages));
    } catch (DamagedException | ExpiredException e) {
      return Optional.empty();
    }
  }

  private boolean hasItsFiles(VersionPage version, UpkeepState upkeep, PageStore pages) {
    Set<String> free = new HashSet<>();
    var objects = upkeep.freeTree(pages).cursor();
    while (objects.next()) {
      free.add(objects.value().name());
    }
    var files = version.fileTree(pages).cursor();
    while (files.next()) {
      if (free.contains(files.value().objectName(id))) {
        return false;
      }
      FileProof.footer(core.store(), ScanPlan.fileOf(id, files.value()), id);
    }
    return true;
  }

  /** The version with the files that it is still known to have. */
  private VersionPage left(Salvage.Rest rest, Staging staging) {
    Map<byte[], Edit<FileEntry>> edits = new TreeMap<>(Arrays::compareUnsigned);
    TableVersion.Totals totals = TableVersion.Totals.NOTHING;
    for (FileEntry file : rest.files()) {
      edits.put(file.key(), Edit.put(file.key(), file));
      totals = totals.plus(1, file.liveRows(), file.size());
    }
    PageTree.Root files =
        new PageTree<>(staging.pages(), FileFormat.INSTANCE, PageTree.Root.EMPTY)
            .apply(List.copyOf(edits.values()), staging.batch(id))
            .root();
    return rest.page().left(files, totals);
  }

  /** What is lost between versions that are there. */
  private final class Gaps {
    private final TableListing table;
    private final Salvage salvage;
    private final CommitStamp commit;
    private final long rows;
    private final List<ExpiredRun> runs = new ArrayList<>();

    Gaps(TableListing table, Salvage salvage, CommitStamp commit, long rows) {
      this.rows = rows;
      this.table = table;
      this.salvage = salvage;
      this.commit = commit;
    }

    /** Whether some of the versions from one to another are lost, or may be. */
    boolean add(long first, long last) {
      if (first > last) {
        return false;
      }
      NavigableSet<Long> known = salvage.lost().subSet(first, true, last, true);
      if (known.isEmpty() && !salvage.isTorn()) {
        return false; // they had expired
      }
      long from = salvage.isTorn() ? first : known.first();
      long to = salvage.isTorn() ? last : known.last();
      String who = commit.author() + ", by a mend of damaged pages";
      runs.add(new ExpiredRun(from, to, commit.time(), commit.time(), who));
      while (from <= to && hasExpired(from) && !known.contains(from)) {
        from++;
      }
      if (from <= to) {
        long fewer = to == table.version() ? rows : 0;
        lost.add(new MendReport.LostVersions(table.name(), from, to, fewer));
      }
      return true;
    }

    private boolean hasExpired(long version) {
      return salvage.expired().stream()
          .anyMatch(run -> run.first() <= version && version <= run.last());
    }
  }

  /** From when on times before a version are lost: right behind what is left before it. */
  private static Instant missing(HistoryRecord record, Instant before) {
    Optional<Instant> known = record.marks().missing();
    Instant behind = before == null ? Instant.EPOCH : before.plusNanos(1000);
    return known.filter(time -> time.isBefore(behind)).orElse(behind);
  }
}
