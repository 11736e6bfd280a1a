package org.ysteron.internal.table;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Values;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/**
 * The versions of a table, told by its newest state: the only way to its past. Immutable,
 * thread-safe.
 */
public final class TableHistory {
  private final VersionPage newest;
  private final TableHead head;
  private final PageStore pages;

  private TableHistory(VersionPage newest, TableHead head, PageStore pages) {
    this.newest = newest;
    this.head = head;
    this.pages = pages;
  }

  /** The history of a table as the newest lake page lists it. */
  public static TableHistory of(TableListing newest, PageStore pages) {
    return new TableHistory(
        VersionPage.read(newest.page(), pages), TableHead.read(newest.head(), pages), pages);
  }

  /** The newest version. */
  public VersionPage newest() {
    return newest;
  }

  /** The record of a version; empty when there is none, or it has expired. */
  public Optional<HistoryRecord> recordOf(long version) {
    if (version == newest.version()) {
      return Optional.of(newest.record());
    }
    return version < 0 || version > newest.version()
        ? Optional.empty()
        : head.historyTree(pages).get(VersionPage.versionKey(version));
  }

  /** Whether there was a version of that number, which is gone. */
  public boolean hasExpired(long version) {
    return version >= 0 && version < newest.version() && recordOf(version).isEmpty();
  }

  /** The page of a version whose record this gave. */
  public VersionPage pageOf(HistoryRecord found) {
    return found.page().map(ref -> VersionPage.read(ref, pages)).orElse(newest);
  }

  /** The record of the oldest version that is kept. */
  public HistoryRecord oldest() {
    TreeCursor<HistoryRecord, ?> cursor = head.historyTree(pages).cursor();
    return cursor.next() ? cursor.value() : newest.record();
  }

  /**
   * The record of the last version that was there at a time; empty when the table is younger.
   *
   * @throws ExpiredException when the version that was there then is gone
   */
  public Optional<HistoryRecord> recordAt(Instant time) {
    long micros = Values.floorMicros(time);
    Optional<HistoryRecord> found =
        HistoryRecord.Format.INSTANCE.time(newest.record()) <= micros
            ? Optional.of(newest.record())
            : head.historyTree(pages)
                .last(
                    span -> span.first() <= micros,
                    value -> HistoryRecord.Format.INSTANCE.time(value) <= micros)
                .map(Map.Entry::getValue);
    HistoryRecord next = found.map(this::after).orElseGet(this::oldest);
    if (next != null && next.marks().missing().filter(gone -> !gone.isAfter(time)).isPresent()) {
      throw new ExpiredException(
          "The version of table %s that was there at %s has expired; of those that are kept, the next is %d, of %s."
              .formatted(newest.name(), time, next.version(), next.commit().time()));
    }
    return found;
  }

  private HistoryRecord after(HistoryRecord record) {
    if (record.version() == newest.version()) {
      return null;
    }
    TreeCursor<HistoryRecord, ?> cursor =
        head.historyTree(pages).cursorFrom(VersionPage.versionKey(record.version() + 1));
    return cursor.next() ? cursor.value() : newest.record();
  }

  /** The record of the last version that was made by a commit up to an ordinal. */
  Optional<HistoryRecord> lastUpTo(long ordinal) {
    if (newest.record().commit().ordinal() <= ordinal) {
      return Optional.of(newest.record());
    }
    long low = 0;
    long high = newest.version();
    while (low < high) {
      long middle = (low + high) >>> 1;
      boolean later = recordOf(middle).filter(r -> r.commit().ordinal() > ordinal).isPresent();
      low = later ? low : middle + 1;
      high = later ? middle : high;
    }
    return recordOf(low - 1);
  }

  /** The records of a version and those before it that are kept, the newest first. */
  public List<HistoryRecord> records(long from, int limit) {
    List<HistoryRecord> records = new ArrayList<>();
    for (long v = Math.min(from, newest.version()); v >= 0 && records.size() < limit; v--) {
      recordOf(v).ifPresent(records::add);
    }
    return records;
  }
}
