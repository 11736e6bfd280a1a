package org.ysteron.internal.changes;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.SortedSet;
import java.util.TreeSet;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.table.FileEntry;

/**
 * The rows in which two versions of a table differ, by where they are. Immutable once it was found.
 *
 * @param deleted rows of the earlier version that the later one has not
 * @param inserted rows of the later version that the earlier one has not
 * @param before rows of both that were written again, as the earlier version has them
 * @param after the same rows, as the later version has them
 * @param bounds serials that divide the rows that were written again into parts of at most a given
 *     number
 */
public record RowChanges(
    Map<FileEntry, RoaringBitmap> deleted,
    Map<FileEntry, RoaringBitmap> inserted,
    Map<FileEntry, RoaringBitmap> before,
    Map<FileEntry, RoaringBitmap> after,
    SortedSet<Long> bounds) {

  RowChanges() {
    this(
        new LinkedHashMap<>(),
        new LinkedHashMap<>(),
        new LinkedHashMap<>(),
        new LinkedHashMap<>(),
        new TreeSet<>());
  }

  /** Of these only the rows of both versions that were written again. */
  public RowChanges onlyWrittenAgain() {
    return new RowChanges(Map.of(), Map.of(), before, after, bounds);
  }

  /** Without some of the deleted and of the inserted rows. */
  public RowChanges without(
      Map<FileEntry, RoaringBitmap> someDeleted, Map<FileEntry, RoaringBitmap> someInserted) {
    return new RowChanges(
        rest(deleted, someDeleted), rest(inserted, someInserted), before, after, bounds);
  }

  /** Rows at some places, without others. */
  public static Map<FileEntry, RoaringBitmap> rest(
      Map<FileEntry, RoaringBitmap> of, Map<FileEntry, RoaringBitmap> without) {
    Map<FileEntry, RoaringBitmap> rest = new LinkedHashMap<>();
    of.forEach(
        (file, rows) -> {
          RoaringBitmap left =
              RoaringBitmap.andNot(rows, without.getOrDefault(file, new RoaringBitmap()));
          if (!left.isEmpty()) {
            rest.put(file, left);
          }
        });
    return rest;
  }

  /** How many rows there are at some places. */
  public static long rows(Map<FileEntry, RoaringBitmap> places) {
    return places.values().stream().mapToLong(RoaringBitmap::getLongCardinality).sum();
  }
}
