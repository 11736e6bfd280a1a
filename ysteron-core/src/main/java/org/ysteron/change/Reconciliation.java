package org.ysteron.change;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.commit.Staging;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.expr.Verdict;
import org.ysteron.table.Check;
import org.ysteron.table.FileEntry;
import org.ysteron.table.FileSummary;
import org.ysteron.table.Proof;
import org.ysteron.table.TableForm;
import org.ysteron.table.TablePage;
import org.ysteron.tree.PageStore;
import org.ysteron.tree.PageTree;
import org.ysteron.tree.TreeDiff;

/**
 * Brings what a transaction did to a table together with what was committed to it since the
 * transaction started, or finds that this cannot be.
 *
 * <p>The file trees of then and now are compared; pages that both share are skipped. A file that
 * came since then holds new or changed rows when its birth is later than the start; else rows were
 * only moved into it. So:
 *
 * <ol>
 *   <li>A file with new or changed rows that the transaction's reads could match is a conflict.
 *   <li>So are, for rows that were read and not changed, rows that went from such files.
 *   <li>Row masks of both unite when their rows differ; the same row removed by both is a conflict.
 *   <li>When they moved the rows of a file elsewhere, our removals follow by serial.
 *   <li>When we moved the rows of a file elsewhere, their removals follow by serial; when both did,
 *       ours are left where they moved them, and our removals follow.
 * </ol>
 */
final class Reconciliation {
  private final TableChange mine;
  private final PageStore pages;
  private final Map<Long, RoaringBitmap> ownMasks = new TreeMap<>();
  private final Map<FileEntry, RoaringBitmap> masked = new LinkedHashMap<>();
  private final List<FileEntry> removed = new ArrayList<>();
  private final List<FileEntry> newborn = new ArrayList<>();
  private final List<FileEntry> arrived = new ArrayList<>();
  private final List<FileEntry> left = new ArrayList<>();
  private final List<FileEntry> remasked = new ArrayList<>();
  private final Replay replay;
  private Conflicts conflicts;
  private TablePage now;

  /** As long as nothing else was committed, the transaction's own changes. */
  Reconciliation(Staging staging, TableChange mine, Replay replay) {
    this.replay = replay;
    this.mine = mine;
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
  void meet(TablePage later, Isolation isolation) {
    now = later;
    conflicts = new Conflicts(mine.start(), now, pages);
    if (mine.reads().isEmpty() && mine.touched().isEmpty() && replay.proofs().isEmpty()) {
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
   * @param own the transaction's files in it
   */
  void prove(TablePage built, List<FileEntry> own) {
    if (now == null) {
      return;
    }
    Proofs proofs = new Proofs(mine.context(), built);
    for (Proof proof : replay.proofs()) {
      if (proof instanceof Proof.UniqueKey) {
        if (!newborn.isEmpty()) {
          throw conflicts.ofProof("The key has to be looked at again with them.");
        }
        continue;
      }
      refuse(proofs.against(proof, newborn));
    }
    List<Proof> others = tightened();
    if (!others.isEmpty() && !own.isEmpty()) {
      mine.awaitFiles();
      others.forEach(proof -> refuse(proofs.against(proof, own)));
    }
  }

  private void refuse(Optional<String> against) {
    against.ifPresent(
        what -> {
          throw conflicts.ofProof(what);
        });
  }

  /** What others ask of rows since this transaction started. */
  private List<Proof> tightened() {
    List<Proof> proofs = new ArrayList<>();
    TableForm before = mine.start().form();
    TableForm after = now.form();
    if (before.schemaVersion() == after.schemaVersion()) {
      return proofs;
    }
    tightened(before.schema(), after.schema().columns(), proofs);
    for (Check check : after.checks()) {
      if (before.check(check.name()).isEmpty()) {
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
        FileEntry added = after.orElseThrow();
        (added.numbers().birth() > mine.start().version() ? newborn : arrived).add(added);
      } else if (after.isEmpty()) {
        left.add(before.get());
      } else {
        remasked.add(after.get());
      }
      next = diff.next();
    }
  }

  private void test(Read read) {
    for (FileEntry file : newborn) {
      if (mayMatch(read, file) && holdsKey(read, file)) {
        throw conflicts.ofRead(read, file, "with rows that this transaction would have read");
      }
    }
    if (read.kind() != Read.Kind.ROWS) {
      return;
    }
    for (FileEntry file : remasked) {
      if (mayMatch(read, file)) {
        throw conflicts.ofRead(read, file, "without rows that this transaction has read");
      }
    }
    long before = left.stream().mapToLong(FileEntry::liveRows).sum();
    long after = arrived.stream().mapToLong(FileEntry::liveRows).sum();
    for (FileEntry file : left) {
      if (after < before && mayMatch(read, file)) {
        throw conflicts.ofRead(read, file, "which held rows that this transaction has read");
      }
    }
  }

  private boolean mayMatch(Read read, FileEntry file) {
    return mine.isAltered() || read.filter().testFiles(file) != Verdict.NONE;
  }

  private boolean holdsKey(Read read, FileEntry file) {
    boolean altered = mine.isAltered() || now.schemaVersion() != mine.start().schemaVersion();
    return altered
        || read.keys().isEmpty()
        || new KeyScan(mine.context(), mine.draft(), read.filter())
            .holdsOne(file, read.keys().get());
  }

  /** A file that both know. */
  private void unite(Touch touch, FileEntry there) {
    RoaringBitmap theirs = there.maskedPositions(pages);
    theirs.andNot(touch.entry().maskedPositions(pages));
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
      RoaringBitmap positions = finder.positions(own, serials);
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
    RoaringBitmap kept = Touching.live(mine, touch.entry());
    kept.andNot(touch.rows());
    Roaring64Bitmap keptSerials = finder.serials(touch.entry(), kept);
    Roaring64Bitmap alive = new Roaring64Bitmap();
    for (FileEntry own : mine.successors(touch.entry().numbers().number())) {
      RoaringBitmap positions = finder.positions(own, keptSerials);
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
    for (FileEntry file : arrived) {
      RoaringBitmap positions = finder.positions(file, serials);
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
