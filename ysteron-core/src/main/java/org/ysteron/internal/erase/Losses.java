package org.ysteron.internal.erase;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeProbe;

/**
 * Which versions of a table have rows that are to be erased.
 *
 * @param files the files that have such rows, by their names in the store
 * @param versions in how many versions such rows count
 * @param rows how many rows count in one of them at least
 * @param bookmarks the names of the holds that keep one
 */
record Losses(Map<String, FileEntry> files, long versions, long rows, Set<String> bookmarks) {
  /** Those of a state. */
  static Losses of(RowSearch search, LakeState state, UUID table, PageStore pages) {
    TableListing listing = state.page().table(table, pages).orElseThrow();
    List<HoldRecord> holds = state.page().upkeep().holds(pages);
    TableHistory history = TableHistory.of(listing, pages);
    List<byte[]> keys = search.keys();
    Map<String, FileEntry> files = new TreeMap<>();
    Map<String, RoaringBitmap> counting = new HashMap<>();
    long versions = 0;
    Set<String> bookmarks = new TreeSet<>();
    for (HistoryRecord record : history.all()) {
      boolean[] loses = new boolean[1];
      new TreeProbe<FileEntry, FileSummary>(
              pages,
              FileFormat.INSTANCE,
              keys,
              (at, file) -> {
                String object = file.objectName(table);
                if (search.matches().containsKey(object)) {
                  RoaringBitmap rows = search.counting(file, pages);
                  loses[0] |= !rows.isEmpty();
                  files.put(object, file);
                  counting.computeIfAbsent(object, name -> new RoaringBitmap()).or(rows);
                }
              })
          .in(history.pageOf(record).files());
      if (loses[0]) {
        versions++;
        for (HoldRecord hold : holds) {
          Long held = hold.versions().get(table);
          if (held != null && held == record.version()) {
            bookmarks.add(hold.label());
          }
        }
      }
    }
    long rows = counting.values().stream().mapToLong(RoaringBitmap::getLongCardinality).sum();
    return new Losses(files, versions, rows, bookmarks);
  }
}
