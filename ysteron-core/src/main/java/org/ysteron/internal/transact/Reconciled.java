package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/**
 * What a transaction does to a version of a table, brought together with what was committed since
 * it started. Immutable.
 *
 * @param ownMasks of the transaction's own files, by the numbers that they have in it, the rows
 *     that do not count
 * @param masked files of the version, and the rows to mask in them
 * @param removed files of the version that go
 * @param came files that came since the start
 * @param now the version, when it is a later one than the transaction started from
 */
record Reconciled(
    Map<Long, RoaringBitmap> ownMasks,
    Map<FileEntry, RoaringBitmap> masked,
    List<FileEntry> removed,
    List<FileEntry> came,
    Optional<VersionPage> now) {

  /** As long as nothing else was committed, the transaction's own changes. */
  static Reconciled alone(SeenTable mine) {
    Map<Long, RoaringBitmap> ownMasks = new TreeMap<>();
    Map<FileEntry, RoaringBitmap> masked = new LinkedHashMap<>();
    List<FileEntry> removed = new ArrayList<>();
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
    return new Reconciled(ownMasks, masked, removed, List.of(), Optional.empty());
  }

  /** The rows of a file of the transaction that do not count. */
  RoaringBitmap ownMask(long number) {
    return ownMasks.getOrDefault(number, new RoaringBitmap());
  }

  /** The same without more rows of the transaction's own files. */
  Reconciled without(Map<Long, RoaringBitmap> more) {
    Map<Long, RoaringBitmap> all = new TreeMap<>(ownMasks);
    more.forEach(
        (number, rows) -> all.merge(number, rows, (one, other) -> RoaringBitmap.or(one, other)));
    return new Reconciled(all, masked, removed, came, now);
  }
}
