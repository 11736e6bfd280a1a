package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.keys.KeyScan;
import org.ysteron.internal.read.SerialFinder;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.TableListing;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeDiff;
import org.ysteron.option.Check;
import org.ysteron.option.Isolation;
import org.ysteron.report.LeftOut;

/**
 * Brings what a transaction did to a table together with what was committed to it since the
 * transaction started, or finds that this cannot be. It is about rows, never about files: which
 * file holds a row, and with which others, says nothing.
 *
 * <p>A row's serial and birth fix its values. The file trees of then and now are compared; pages
 * that both share are skipped. Let <i>s</i> be the ordinal of the last commit that the transaction
 * saw.
 *
 * <ol>
 *   <li>When the table's counters of rows born and gone are as they were, rows were only moved, and
 *       no read can be in the way.
 *   <li>A row that was born since, which is one of a later birth than <i>s</i> in a file that came,
 *       is a conflict when a read of the transaction would have found it.
 *   <li>A row that has gone since, which is one that was masked, or whose file left, and that is
 *       with its birth in no file that came, is a conflict when a read found it and used it as it
 *       was.
 *   <li>Rows that the transaction removed are masked where they are now: in their file, or by
 *       serial in files that came. One that is found there with a later birth, or not at all, was
 *       changed by both, which is a conflict.
 *   <li>When the transaction moved the rows of a file elsewhere, others' removals follow by serial;
 *       when both did, ours are left where others moved them, and our removals follow.
 * </ol>
 */
final class Reconciliation {
  private final TableChange mine;
  private final long seen;
  private final PageStore pages;
  private final Map<Long, RoaringBitmap> ownMasks = new TreeMap<>();
  private final Map<FileEntry, RoaringBitmap> masked = new LinkedHashMap<>();
  private final List<FileEntry> removed = new ArrayList<>();
  private final List<FileEntry> came = new ArrayList<>();
  private final List<Lost> lost = new ArrayList<>();
  private final Replay replay;
  private Conflicts conflicts;
  private VersionPage now;

  /** Rows of a file of the start that are no longer where they were; empty for all of them. */
  private record Lost(FileEntry file, Optional<RoaringBitmap> positions) {}

  /** As long as nothing else was committed, the transaction's own changes. */
  Reconciliation(Staging staging, TableChange mine, Replay replay) {
    this.replay = replay;
    this.mine = mine;
    this.seen = mine.seen();
    this.pages = staging.pages();
    mine.touched()
        .forEach(
            (number, touch) -> {
              if (mine.isOwn(number)) {
                ownMasks.put(number, touch.rows().clone());
              } else if (touch.gone()) {
                removed.add(touch.entry());
              } else {
                masked.put(touch.entry(), touch.rows());
              }
            });
  }

  /** Rows to mask, by file. */
  Map<FileEntry, RoaringBitmap> masked() {
    return masked;
  }

  /** Files to remove. */
  List<FileEntry> removed() {
    return removed;
  }

  /** The rows of a file of the transaction that do not count. */
  RoaringBitmap ownMask(long number) {
    return ownMasks.getOrDefault(number, new RoaringBitmap());
  }

  /** Meets a later version of the table. */
  void meet(TableListing later, Isolation isolation) {
    now = VersionPage.read(later.page(), pages);
    conflicts = new Conflicts(mine.start(), later, pages);
    if (now.replaced().rewound() > seen) {
      throw conflicts.ofRewind();
    }
    if (mine.reads().isEmpty()
        && mine.touched().isEmpty()
        && mine.keyTests().isEmpty()
        && !mine.isAltered()) {
      return;
    }
    compare();
    for (Read read : mine.reads()) {
      if (isolation == Isolation.SERIALIZABLE || read.kind() == Read.Kind.KEYS) {
        test(read);
      }
    }
    masked.clear();
    removed.clear();
    PageTree<FileEntry, FileSummary> tree = now.fileTree(pages);
    mine.touched()
        .forEach(
            (number, touch) -> {
              if (!mine.isOwn(number)) {
                Optional<FileEntry> there = tree.get(touch.entry().key());
                if (there.isPresent()) {
                  unite(touch, there.get());
                } else {
                  follow(touch);
                }
              }
            });
  }

  /**
   * Proves again what both need of each other's rows: what this transaction's alterations ask of
   * the rows that came since, and what others' ask of the rows that it brings.
   *
   * @param built the table as it will be
   * @param own the transaction's files in it, by the numbers that they have in the transaction
   */
  void prove(VersionPage built, Map<Long, FileEntry> own) {
    if (now == null) {
      return;
    }
    List<FileEntry> newborn = newborn(built);
    List<KeyTest.Looked> looked = looked(newborn);
    for (KeyTest test : mine.keyTests()) {
      KeyTest.Found found = test.atCommit(built, own, looked);
      if (!found.isNothing()) {
        throw mine.isFinal()
            ? found.refusal(mine.name(), "Upsert them, or leave out those that are there.")
            : conflicts.ofKeys(found.told());
      }
    }
    Proofs proofs = new Proofs(mine, built);
    for (Proof proof : KeyRule.asked(replay.proofs(), now, built)) {
      refuse(proofs.against(proof, newborn));
    }
    if (asksMore() && !own.isEmpty()) {
      mine.awaitFiles();
      List<FileEntry> files = List.copyOf(own.values());
      tightened().forEach(proof -> refuse(proofs.against(proof, files)));
    }
  }

  /** Those of the files that came in which a row was born since, as they are in a version. */
  private List<FileEntry> newborn(VersionPage built) {
    List<FileEntry> newborn = new ArrayList<>();
    for (FileEntry file : came) {
      if (file.hasBornSince(seen)) {
        built.fileTree(pages).get(file.key()).ifPresent(newborn::add);
      }
    }
    return newborn;
  }

  private List<KeyTest.Looked> looked(List<FileEntry> newborn) {
    return newborn.stream().map(file -> new KeyTest.Looked(file, OptionalLong.of(seen))).toList();
  }

  /** Whether others ask more of rows since this transaction started. */
  private boolean asksMore() {
    return now != null && !tightened().isEmpty();
  }

  /** Whether rows of the transaction's may not fit what others did since it started. */
  boolean maySuffer() {
    return asksMore() || (!mine.keyTests().isEmpty() && !came.isEmpty());
  }

  /**
   * Leaves those rows of the transaction's out that do not fit what others ask since; to be done
   * before its files are added.
   *
   * @param trial the table as it would be with all of them
   * @param own the transaction's files in it, by the numbers that they have in the transaction
   */
  LeftOut leaveOut(VersionPage trial, Map<Long, FileEntry> own) {
    mine.awaitFiles();
    Proofs proofs = new Proofs(mine, trial);
    LeftOut left = LeftOut.NONE;
    List<KeyTest.Looked> looked = looked(newborn(trial));
    for (KeyTest test : mine.keyTests()) {
      KeyTest.Found found = test.atCommit(trial, own, looked);
      if (!found.isNothing()) {
        left = left.and(leaveOut(own, found.rows()), found.told());
      }
    }
    for (Proof proof : tightened()) {
      Optional<Proofs.Against> against = proofs.against(proof, List.copyOf(own.values()));
      if (against.isPresent()) {
        left = left.and(leaveOut(own, against.get().rows()), against.get().what());
      }
    }
    return left;
  }

  private long leaveOut(Map<Long, FileEntry> own, Map<FileEntry, RoaringBitmap> rows) {
    long more = 0;
    for (Map.Entry<Long, FileEntry> file : own.entrySet()) {
      more += leaveOut(file.getKey(), rows.getOrDefault(file.getValue(), new RoaringBitmap()));
    }
    return more;
  }

  /** How many of the rows of a file were not left out before. */
  private long leaveOut(long number, RoaringBitmap rows) {
    RoaringBitmap mask = ownMasks.computeIfAbsent(number, n -> new RoaringBitmap());
    long before = mask.getLongCardinality();
    mask.or(rows);
    return mask.getLongCardinality() - before;
  }

  private boolean bornSince() {
    return now.record().lives().born() != mine.start().record().lives().born();
  }

  private boolean goneSince() {
    return now.record().lives().gone() != mine.start().record().lives().gone();
  }

  private void refuse(Optional<Proofs.Against> against) {
    against.ifPresent(
        what -> {
          throw conflicts.ofProof(what.toString());
        });
  }

  /** What others ask of rows since this transaction started. */
  private List<Proof> tightened() {
    List<Proof> proofs = new ArrayList<>();
    TableForm before = mine.start().form();
    TableForm after = now.form();
    if (KeyRule.isToBeProved(mine.start(), now)) {
      proofs.add(new Proof.UniqueKey());
    }
    if (before.schemaVersion() == after.schemaVersion()) {
      return proofs;
    }
    tightened(before.schema(), after.schema().columns(), proofs);
    for (Check check : after.checks()) {
      // One of the same name may be another: it was dropped and added with another condition.
      if (!before.checks().contains(check)) {
        proofs.add(new Proof.Holds(check.name()));
      }
    }
    return proofs;
  }

  private static void tightened(Schema before, List<Field> fields, List<Proof> proofs) {
    for (Field field : fields) {
      boolean was = before.field(field.id()).filter(Field::required).isPresent();
      if (field.required() && !was) {
        proofs.add(new Proof.NoNulls(field.id()));
      }
      if (before.field(field.id()).isPresent()) {
        tightened(before, Schema.children(field.type()), proofs);
      }
    }
  }

  private void compare() {
    TreeDiff<FileEntry, FileSummary> diff = mine.start().fileTree(pages).diff(now.fileTree(pages));
    Optional<TreeDiff.Change<FileEntry>> next = diff.next();
    while (next.isPresent()) {
      Optional<FileEntry> before = next.get().before();
      Optional<FileEntry> after = next.get().after();
      if (before.isEmpty()) {
        came.add(after.orElseThrow());
      } else if (after.isEmpty()) {
        lost.add(new Lost(before.get(), Optional.empty()));
      } else {
        lost.add(new Lost(before.get(), Optional.of(newlyMasked(before.get(), after.get()))));
      }
      next = diff.next();
    }
  }

  private RoaringBitmap newlyMasked(FileEntry before, FileEntry after) {
    RoaringBitmap positions = after.maskedPositions(pages);
    positions.andNot(before.maskedPositions(pages));
    return positions;
  }

  private void test(Read read) {
    if (bornSince()) {
      for (FileEntry file : came) {
        if (file.hasBornSince(seen) && mayMatch(read, file) && holdsBorn(read, file)) {
          throw conflicts.ofRead(read, file, "with rows that this transaction would have read");
        }
      }
    }
    if (read.kind() == Read.Kind.ROWS && goneSince()) {
      testGone(read);
    }
  }

  private boolean mayMatch(Read read, FileEntry file) {
    return mine.isAltered() || read.filter().testFiles(file) != Verdict.NONE;
  }

  /** Whether a file that came has a row that was born since and that a read would have found. */
  private boolean holdsBorn(Read read, FileEntry file) {
    if (mine.isAltered() || now.schemaVersion() != mine.start().schemaVersion()) {
      return true; // what was read means something else to the columns of now
    }
    SerialFinder finder = new SerialFinder(mine.context(), now);
    if (read.keys().isEmpty()) {
      boolean all = file.isBornSince(seen) && read.filter().testFiles(file) == Verdict.ALL;
      return all ? file.liveRows() > 0 : finder.hasBornSince(file, read.filter(), seen);
    }
    Optional<RoaringBitmap> among =
        file.isBornSince(seen) ? Optional.empty() : Optional.of(finder.bornSince(file, seen));
    return new KeyScan(mine.context(), mine.draft(), read.filter())
        .holdsOne(file, read.keys().get(), among);
  }

  /** Rows that were read and are no longer there; what left and came again was moved. */
  private void testGone(Read read) {
    SerialFinder then = new SerialFinder(mine.context(), mine.start());
    Map<FileEntry, Roaring64Bitmap> missing = new LinkedHashMap<>();
    Roaring64Bitmap found = new Roaring64Bitmap();
    for (Lost rows : lost) {
      if (read.filter().testFiles(rows.file) != Verdict.NONE) {
        Roaring64Bitmap serials = then.serials(rows.file, read.filter(), rows.positions);
        if (!serials.isEmpty()) {
          missing.put(rows.file, serials);
          found.or(serials);
        }
      }
    }
    if (missing.isEmpty()) {
      return;
    }
    SerialFinder finder = new SerialFinder(mine.context(), now);
    for (FileEntry file : came) {
      RoaringBitmap moved = finder.positions(file, found, seen);
      if (!moved.isEmpty()) {
        found.andNot(finder.serials(file, moved));
      }
    }
    missing.forEach(
        (file, serials) -> {
          serials.and(found);
          if (!serials.isEmpty()) {
            throw conflicts.ofRead(read, file, "without rows that this transaction has read");
          }
        });
  }

  /** A file that both know. */
  private void unite(Touch touch, FileEntry there) {
    RoaringBitmap theirs = newlyMasked(touch.entry(), there);
    if (RoaringBitmap.intersects(theirs, touch.rows())) {
      throw conflicts.ofRows(touch.entry());
    }
    if (!touch.gone()) {
      mask(there, touch.rows());
      return;
    }
    removed.add(there);
    if (theirs.isEmpty()) {
      return;
    }
    mine.awaitFiles();
    SerialFinder finder = new SerialFinder(mine.context(), mine.draft());
    Roaring64Bitmap serials = finder.serials(touch.entry(), theirs);
    long found = 0;
    for (FileEntry own : mine.successors(touch.entry().numbers().number())) {
      RoaringBitmap positions = finder.positions(own, serials, seen);
      found += positions.getLongCardinality();
      ownMasks.computeIfAbsent(own.numbers().number(), n -> new RoaringBitmap()).or(positions);
    }
    if (found < serials.getLongCardinality()) {
      throw conflicts.ofRows(touch.entry());
    }
  }

  /**
   * The serials of the rows that the transaction removed from a file. If it moved the others to
   * files of its own, those are left out, and the rows that it removed from them later are among
   * these.
   */
  private Roaring64Bitmap withoutSuccessors(SerialFinder finder, Touch touch) {
    Roaring64Bitmap removedRows = finder.serials(touch.entry(), touch.rows());
    if (!touch.gone()) {
      return removedRows;
    }
    mine.awaitFiles();
    RoaringBitmap kept = mine.live(touch.entry());
    kept.andNot(touch.rows());
    Roaring64Bitmap keptSerials = finder.serials(touch.entry(), kept);
    Roaring64Bitmap alive = new Roaring64Bitmap();
    for (FileEntry own : mine.successors(touch.entry().numbers().number())) {
      RoaringBitmap positions = finder.positions(own, keptSerials, seen);
      alive.or(finder.serials(own, positions));
      ownMasks.computeIfAbsent(own.numbers().number(), n -> new RoaringBitmap()).or(positions);
    }
    keptSerials.andNot(alive);
    removedRows.or(keptSerials);
    return removedRows;
  }

  /** A file that they took away: its rows are elsewhere, or were removed. */
  private void follow(Touch touch) {
    SerialFinder finder = new SerialFinder(mine.context(), mine.draft());
    Roaring64Bitmap serials = withoutSuccessors(finder, touch);
    long found = 0;
    for (FileEntry file : came) {
      RoaringBitmap positions = finder.positions(file, serials, seen);
      if (!positions.isEmpty()) {
        found += positions.getLongCardinality();
        mask(file, positions);
      }
    }
    if (found < serials.getLongCardinality()) {
      throw conflicts.ofRows(touch.entry());
    }
  }

  private void mask(FileEntry file, RoaringBitmap more) {
    RoaringBitmap all = RoaringBitmap.or(masked.getOrDefault(file, new RoaringBitmap()), more);
    if (all.getLongCardinality() == file.liveRows()) {
      masked.remove(file);
      removed.add(file);
    } else {
      masked.put(file, all);
    }
  }
}
