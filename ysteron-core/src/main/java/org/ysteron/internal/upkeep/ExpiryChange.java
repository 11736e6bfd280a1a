package org.ysteron.internal.upkeep;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.ExpiredRun;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeProbe;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.option.Retention;

/**
 * Takes versions of one table out of its history, by rules, in a commit.
 *
 * <p>What only they needed is found by difference: of each version that goes, the files that the
 * version after it does not have, or has in another object. Those are looked up by their keys in
 * all versions that stay, once in each page, for what a version between two others lacks may have
 * come back by a rewind. Files that are found nowhere are recorded as free from this commit on. All
 * of it, holds and rules included, is decided anew on the state that the commit stands on. For one
 * thread.
 */
final class ExpiryChange implements Change {
  private final Supplier<Instant> clock;
  private final UUID id;
  private final String name;
  private final Function<LakePage, Retention> lakeRules;
  private final int most;
  private final Map<Long, Step> steps = new HashMap<>();
  private ExpiryReport.Expired did;

  /** The files that a version has and the next one has not. */
  private record Step(long next, List<FileEntry> gone) {}

  /**
   * An expiry.
   *
   * @param clock this machine's; the time of a commit may be one that another one's had wrong
   * @param rules those of the lake as it is then, for a table that has none of its own
   * @param most so many versions go at most, the oldest of those that are to go
   */
  ExpiryChange(
      UUID id,
      String name,
      Supplier<Instant> clock,
      Function<LakePage, Retention> rules,
      int most) {
    this.most = most;
    this.clock = clock;
    this.id = id;
    this.name = name;
    this.lakeRules = rules;
  }

  /** What was done, or would be. */
  ExpiryReport.Expired did() {
    return did;
  }

  @Override
  public void apply(Staging staging) {
    PageStore pages = staging.pages();
    LakePage lake = staging.base().page();
    TableListing listing =
        staging
            .table(id)
            .orElseThrow(
                () ->
                    new NotFoundException(
                        NotFoundException.Kind.TABLE,
                        name,
                        "There is no table " + name + " any more."));
    TableHistory history = TableHistory.of(listing, pages);
    List<HistoryRecord> records = history.all();
    KeptVersions kept =
        new KeptVersions(
            id,
            listing.dropped(),
            records,
            lakeRules.apply(lake),
            KnownTimes.at(staging, clock.get()),
            lake.upkeep().holds(pages),
            most);
    if (kept.isNoneKept()) {
      endHolds(staging, lake);
      forget(staging, listing, records);
      return;
    }
    List<KeptVersions.Run> runs = kept.runs();
    if (runs.isEmpty()) {
      throw new NothingToDo();
    }
    endHolds(staging, lake);
    expire(staging, listing, history, records, kept, runs);
  }

  /** Ends the holds that are over, by the commit that lets versions go. */
  private static void endHolds(Staging staging, LakePage lake) {
    for (HoldRecord hold : lake.upkeep().holds(staging.pages())) {
      if (!hold.lastsAt(staging.commit().time())) {
        staging.edit(
            LakeFeature.EXPIRY,
            (page, own) ->
                page.with(page.upkeep().withHold(Edit.remove(hold.key()), staging.pages(), own)));
      }
    }
  }

  private void expire(
      Staging staging,
      TableListing listing,
      TableHistory history,
      List<HistoryRecord> records,
      KeptVersions kept,
      List<KeptVersions.Run> runs) {
    PageStore pages = staging.pages();
    PageBatch batch = staging.batch(id);
    VersionPage newest = history.newest();
    List<Edit<HistoryRecord>> edits = new ArrayList<>();
    List<ExpiryReport.Gap> gaps = new ArrayList<>();
    long versions = 0;
    PageRef page = listing.page();
    for (KeptVersions.Run run : runs) {
      HistoryRecord first = records.get(run.first());
      HistoryRecord after = records.get(run.last() + 1);
      Instant missing = first.marks().missing().orElse(first.commit().time());
      for (int i = run.first(); i <= run.last(); i++) {
        edits.add(Edit.remove(key(records.get(i))));
      }
      if (after.version() == newest.version()) {
        page = newest.afterGap(missing).write(batch);
      } else {
        edits.add(Edit.put(key(after), after.afterGap(missing)));
      }
      versions += run.last() - run.first() + 1;
      gaps.add(
          new ExpiryReport.Gap(
              first.version(), records.get(run.last()).version(), missing, after.commit().time()));
    }
    Instant now = staging.commit().time();
    ExpiredRun gone =
        new ExpiredRun(
            gaps.get(0).first(),
            gaps.get(gaps.size() - 1).last(),
            now,
            now,
            staging.commit().author());
    TableHead shorter =
        TableHead.read(listing.head(), pages).without(edits, List.of(gone), pages, batch);
    staging.replace(listing.with(page, shorter.write(batch)));
    List<Edit<FreeObject>> freed = freed(staging, history, records, kept);
    staging.edit(
        LakeFeature.EXPIRY, (lake, own) -> lake.with(lake.upkeep().withFree(freed, pages, own)));
    did =
        new ExpiryReport.Expired(
            listing.name(),
            versions,
            gaps,
            kept.count(),
            new TreeMap<>(kept.heldBy()),
            freed.size(),
            freed.stream().mapToLong(edit -> edit.value().orElseThrow().bytes()).sum(),
            false);
  }

  private static byte[] key(HistoryRecord record) {
    return VersionPage.versionKey(record.version());
  }

  /** What nothing needs once the runs are gone. */
  private List<Edit<FreeObject>> freed(
      Staging staging, TableHistory history, List<HistoryRecord> records, KeptVersions kept) {
    PageStore pages = staging.pages();
    SortedMap<byte[], Map<String, Long>> candidates = new TreeMap<>(Arrays::compareUnsigned);
    for (KeptVersions.Run run : kept.runs()) {
      for (int i = run.first(); i <= run.last(); i++) {
        for (FileEntry file : step(records.get(i), records.get(i + 1), history, pages)) {
          candidates
              .computeIfAbsent(file.key(), key -> new TreeMap<>())
              .put(file.objectName(id), file.size());
        }
      }
    }
    List<byte[]> keys = List.copyOf(candidates.keySet());
    TreeProbe<FileEntry, FileSummary> probe =
        new TreeProbe<>(
            pages,
            FileFormat.INSTANCE,
            keys,
            (at, file) -> candidates.get(keys.get(at)).remove(file.objectName(id)));
    if (!keys.isEmpty()) {
      kept.kept().forEach(record -> probe.in(history.pageOf(record).files()));
    }
    long entry = staging.commit().entry();
    List<Edit<FreeObject>> freed = new ArrayList<>();
    candidates
        .values()
        .forEach(
            objects ->
                objects.forEach(
                    (object, size) -> {
                      FreeObject free = FreeObject.of(entry, object, size);
                      freed.add(Edit.put(free.key(), free));
                    }));
    return freed;
  }

  private List<FileEntry> step(
      HistoryRecord from, HistoryRecord to, TableHistory history, PageStore pages) {
    Step known = steps.get(from.version());
    if (known == null || known.next != to.version()) {
      known = new Step(to.version(), gone(history.pageOf(from), history.pageOf(to), pages));
      steps.put(from.version(), known);
    }
    return known.gone;
  }

  /** The files of a version that another one has not, or has in another object. */
  private List<FileEntry> gone(VersionPage from, VersionPage to, PageStore pages) {
    List<FileEntry> gone = new ArrayList<>();
    from.fileTree(pages)
        .diff(to.fileTree(pages))
        .each(
            change -> {
              Optional<String> now = change.after().map(file -> file.objectName(id));
              change
                  .before()
                  .filter(file -> !now.equals(Optional.of(file.objectName(id))))
                  .ifPresent(gone::add);
            });
    return gone;
  }

  /** Takes a dropped table out of the lake, with all that it has in the store. */
  private void forget(Staging staging, TableListing listing, List<HistoryRecord> records) {
    PageStore pages = staging.pages();
    long entry = staging.commit().entry();
    long bytes = listing.totals().bytes();
    List<Edit<FreeObject>> freed = new ArrayList<>();
    for (String directory : List.of(FileEntry.directory(id), PageHome.directory(id))) {
      FreeObject free = FreeObject.of(entry, directory + "/", freed.isEmpty() ? bytes : 0);
      freed.add(Edit.put(free.key(), free));
    }
    staging.edit(
        LakeFeature.EXPIRY,
        (lake, own) ->
            lake.without(listing, pages, own).with(lake.upkeep().withFree(freed, pages, own)));
    did =
        new ExpiryReport.Expired(
            listing.name(),
            records.size(),
            List.of(
                new ExpiryReport.Gap(
                    records.get(0).version(),
                    listing.version(),
                    records.get(0).commit().time(),
                    staging.commit().time())),
            0,
            new TreeMap<>(),
            listing.totals().files(),
            bytes,
            true);
  }
}
