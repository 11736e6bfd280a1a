package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.internal.changes.FileChanges;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.keys.KeyScan;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.option.Isolation;

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
  private final TableWork work;
  private final SeenTable mine;
  private final long seen;
  private final PageStore pages;
  private final VersionPage now;
  private final Conflicts conflicts;
  private FileChanges theirs = FileChanges.NONE;
  private final Map<Long, RoaringBitmap> ownMasks = new TreeMap<>();
  private final Map<FileEntry, RoaringBitmap> masked = new LinkedHashMap<>();
  private final List<FileEntry> removed = new ArrayList<>();

  private Reconciliation(TableWork work, VersionPage now, Conflicts conflicts, PageStore pages) {
    this.work = work;
    this.mine = work.table();
    this.seen = mine.seen();
    this.now = now;
    this.conflicts = conflicts;
    this.pages = pages;
  }

  /**
   * Meets a later version of the table.
   *
   * @throws org.ysteron.error.ConflictException when the two cannot be brought together
   */
  static Reconciled meet(
      TableWork work, VersionPage now, Conflicts conflicts, Isolation isolation, PageStore pages) {
    if (now.replaced().rewound() > work.table().seen()) {
      throw conflicts.ofRewind();
    }
    return new Reconciliation(work, now, conflicts, pages).meet(isolation);
  }

  private Reconciled meet(Isolation isolation) {
    boolean cares =
        !work.reads().isEmpty()
            || !mine.touched().isEmpty()
            || !work.keyTests().isEmpty()
            || work.isAltered();
    if (cares) {
      theirs = FileChanges.between(mine.start(), now, pages);
    }
    for (Read read : work.reads()) {
      if (isolation == Isolation.SERIALIZABLE || read.kind() == Read.Kind.KEYS) {
        test(read);
      }
    }
    PageTree<FileEntry, FileSummary> tree = now.fileTree(pages);
    ownMasks.putAll(Reconciled.alone(mine).ownMasks());
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
    return new Reconciled(ownMasks, masked, removed, theirs.came(), Optional.of(now));
  }

  private boolean bornSince() {
    return now.record().lives().born() != mine.start().record().lives().born();
  }

  private boolean goneSince() {
    return now.record().lives().gone() != mine.start().record().lives().gone();
  }

  private void test(Read read) {
    if (bornSince()) {
      for (FileEntry file : theirs.came()) {
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
    return work.isAltered() || read.filter().testFiles(file) != Verdict.NONE;
  }

  /** Whether a file that came has a row that was born since and that a read would have found. */
  private boolean holdsBorn(Read read, FileEntry file) {
    if (work.isAltered() || now.schemaVersion() != mine.start().schemaVersion()) {
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
    theirs
        .lost(pages)
        .forEach(
            (file, positions) -> {
              if (read.filter().testFiles(file) != Verdict.NONE) {
                Roaring64Bitmap serials = then.serials(file, read.filter(), positions);
                if (!serials.isEmpty()) {
                  missing.put(file, serials);
                  found.or(serials);
                }
              }
            });
    if (missing.isEmpty()) {
      return;
    }
    SerialFinder finder = new SerialFinder(mine.context(), now);
    for (FileEntry file : theirs.came()) {
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
    RoaringBitmap alsoMasked = new FileChanges.Changed(touch.entry(), there).masked(pages);
    if (RoaringBitmap.intersects(alsoMasked, touch.rows())) {
      throw conflicts.ofRows(touch.entry());
    }
    if (!touch.gone()) {
      mask(there, touch.rows());
      return;
    }
    removed.add(there);
    if (alsoMasked.isEmpty()) {
      return;
    }
    mine.awaitFiles();
    SerialFinder finder = new SerialFinder(mine.context(), mine.draft());
    Roaring64Bitmap serials = finder.serials(touch.entry(), alsoMasked);
    long found = 0;
    for (FileEntry own : mine.successors(touch.entry().numbers().number())) {
      RoaringBitmap positions = work.moved().positions(own, serials);
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
      RoaringBitmap positions = work.moved().positions(own, keptSerials);
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
    for (FileEntry file : theirs.came()) {
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
