package org.ysteron.internal.lake;

import java.util.AbstractList;
import java.util.ArrayList;
import java.util.List;
import java.util.RandomAccess;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;

/**
 * The records of all versions of a table that are kept, the oldest first. Only some are in memory
 * at a time; to go through them in order reads each part once. Immutable, for one thread.
 */
final class VersionList extends AbstractList<HistoryRecord> implements RandomAccess {
  private static final int PART = 512;

  private final PageTree<HistoryRecord, ?> tree;
  private final HistoryRecord newest;
  private final long[] versions;
  private Part part;
  private Part partBefore;

  private record Part(int first, List<HistoryRecord> records) {
    boolean has(int index) {
      return index >= first && index < first + records.size();
    }
  }

  VersionList(PageTree<HistoryRecord, ?> tree, HistoryRecord newest) {
    this.tree = tree;
    this.newest = newest;
    this.versions = new long[Math.toIntExact(tree.count())];
    TreeCursor<HistoryRecord, ?> cursor = tree.cursor();
    List<HistoryRecord> first = new ArrayList<>();
    for (int i = 0; cursor.next(); i++) {
      HistoryRecord record = cursor.value();
      versions[i] = record.version();
      if (i < PART) {
        first.add(record);
      }
    }
    this.part = new Part(0, first);
    this.partBefore = part;
  }

  @Override
  public int size() {
    return versions.length + 1;
  }

  @Override
  public HistoryRecord get(int index) {
    if (index == versions.length) {
      return newest;
    }
    if (!part.has(index)) {
      Part now = partBefore.has(index) ? partBefore : read(index / PART * PART);
      partBefore = part;
      part = now;
    }
    return part.records.get(index - part.first);
  }

  private Part read(int first) {
    List<HistoryRecord> records = new ArrayList<>();
    TreeCursor<HistoryRecord, ?> cursor = tree.cursorFrom(VersionPage.versionKey(versions[first]));
    while (records.size() < PART && cursor.next()) {
      records.add(cursor.value());
    }
    return new Part(first, records);
  }
}
