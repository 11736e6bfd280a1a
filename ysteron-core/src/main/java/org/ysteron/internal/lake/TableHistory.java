package org.ysteron.internal.lake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.LongConsumer;
import java.util.function.Predicate;
import org.ysteron.data.Values;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.report.NamedWriter;

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

  /** The named writers of the table, by name. */
  public List<NamedWriter> writers() {
    List<NamedWriter> writers = new ArrayList<>();
    TreeCursor<WriterRecord, ?> cursor = head.writerTree(pages).cursor();
    while (cursor.next()) {
      WriterRecord writer = cursor.value();
      writers.add(
          new NamedWriter(
              writer.name(),
              writer.session(),
              writer.sequence() < 0 ? OptionalLong.empty() : OptionalLong.of(writer.sequence())));
    }
    return writers;
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

  /** Whether a table has a version; of its newest no page is read. */
  public static boolean isKept(TableListing table, long version, PageStore pages) {
    return table.version() == version || of(table, pages).recordOf(version).isPresent();
  }

  /** Whether there was a version of that number, which is gone. */
  public boolean hasExpired(long version) {
    return version >= 0 && version < newest.version() && recordOf(version).isEmpty();
  }

  /** What is known of when and by whom a version that is gone was let go; empty for nothing. */
  public Optional<String> expired(long version) {
    return ExpiredRun.told(version, head.expired());
  }

  /**
   * The record of a version.
   *
   * @throws ExpiredException when it is gone; says when and by whom
   * @throws NotFoundException when there never was one; the message names the newest
   */
  public HistoryRecord byNumber(long version) {
    return recordOf(version)
        .orElseThrow(
            () ->
                hasExpired(version)
                    ? gone(version)
                    : new NotFoundException(
                        NotFoundException.Kind.VERSION,
                        String.valueOf(version),
                        "Table %s has no version %d: its versions are 0 to %d."
                            .formatted(newest.name(), version, newest.version())));
  }

  /** What to say of a version that is gone. */
  public ExpiredException gone(long version) {
    return ExpiredException.ofVersion(
        newest.name(),
        version,
        "Version %d of table %s expired%s. The oldest kept version is %d; read this or a later one."
            .formatted(
                version,
                newest.name(),
                expired(version).map(told -> " " + told).orElse(""),
                oldest().version()),
        null);
  }

  /**
   * The record of the last version that was there at a time.
   *
   * @throws ExpiredException when the version that was there then is gone
   * @throws NotFoundException when the table is younger; the message names its first version
   */
  public HistoryRecord byTime(Instant time) {
    return recordAt(time)
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.VERSION,
                    time.toString(),
                    "At %s table %s did not exist: its first version, %d, is from %s."
                        .formatted(
                            time, newest.name(), oldest().version(), oldest().commit().time())));
  }

  /** The page of a version whose record this gave. */
  public VersionPage pageOf(HistoryRecord found) {
    return found.page().map(ref -> VersionPage.read(ref, pages)).orElse(newest);
  }

  /** The records of all versions that are kept, in their order; for one thread, read as needed. */
  public List<HistoryRecord> all() {
    return new VersionList(head.historyTree(pages), newest.record());
  }

  /** Tells of the entries that made the versions that are kept. */
  public void eachEntry(LongConsumer told) {
    TreeCursor<HistoryRecord, ?> records = head.historyTree(pages).cursor();
    while (records.next()) {
      told.accept(records.value().commit().entry());
    }
    told.accept(newest.record().commit().entry());
  }

  /** How many versions are kept. */
  public long count() {
    return head.history().count() + 1;
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
    Optional<HistoryRecord> next = found.isPresent() ? after(found.get()) : Optional.of(oldest());
    next.filter(record -> record.marks().missing().filter(gone -> !gone.isAfter(time)).isPresent())
        .ifPresent(
            record -> {
              throw ExpiredException.ofTable(
                  newest.name(),
                  "The version of table %s at %s has expired; the next kept version is %d, from %s."
                      .formatted(newest.name(), time, record.version(), record.commit().time()));
            });
    return found;
  }

  /** The record of the next version that is kept; empty behind the newest. */
  public Optional<HistoryRecord> after(HistoryRecord record) {
    if (record.version() == newest.version()) {
      return Optional.empty();
    }
    TreeCursor<HistoryRecord, ?> cursor =
        head.historyTree(pages).cursorFrom(VersionPage.versionKey(record.version() + 1));
    return Optional.of(cursor.next() ? cursor.value() : newest.record());
  }

  /** The record of the last version that is kept, up to a number. */
  private Optional<HistoryRecord> upTo(long version) {
    return version >= newest.version()
        ? Optional.of(newest.record())
        : head.historyTree(pages).atOrBefore(VersionPage.versionKey(Math.max(0, version)));
  }

  /** The record of the last version that is kept and was made by a commit up to an ordinal. */
  public Optional<HistoryRecord> lastUpTo(long ordinal) {
    return lastBefore(record -> record.commit().ordinal() > ordinal);
  }

  /**
   * The record of the last version that is kept and is before all that are late.
   *
   * @param isLate what is true of all versions from one on
   */
  public Optional<HistoryRecord> lastBefore(Predicate<HistoryRecord> isLate) {
    if (!isLate.test(newest.record())) {
      return Optional.of(newest.record());
    }
    long low = 0;
    long high = newest.version();
    while (low < high) {
      long middle = (low + high) >>> 1;
      boolean later = upTo(middle).filter(isLate).isPresent();
      low = later ? low : middle + 1;
      high = later ? middle : high;
    }
    return low == 0 ? Optional.empty() : upTo(low - 1);
  }

  /** The records of a version and those before it that are kept, the newest first. */
  public List<HistoryRecord> records(long from, int limit) {
    List<HistoryRecord> records = new ArrayList<>();
    long version = from;
    while (version >= 0 && records.size() < limit) {
      Optional<HistoryRecord> record = upTo(version);
      if (record.isEmpty()) {
        break;
      }
      records.add(record.get());
      version = record.get().version() - 1;
    }
    return records;
  }
}
