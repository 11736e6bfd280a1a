package org.ysteron.internal.position;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.Changes;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.compare.VersionChanges;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.PositionRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.tree.PageStore;

/** A position as of the start of a transaction. For one thread. */
final class OpenPosition implements ReaderPosition {
  private static final int QUARTER = 4;

  private final ChangeSet changes;
  private final LakeState start;
  private final PageStore pages;
  private final PositionRecord record;

  OpenPosition(ChangeSet changes, PositionRecord record) {
    this.changes = changes;
    this.start = changes.start();
    this.pages = changes.core().pages();
    this.record = record;
  }

  @Override
  public String name() {
    return record.name();
  }

  @Override
  public long entry() {
    return record.entry();
  }

  private Optional<TableListing> listing(UUID table) {
    return start.page().table(table, pages);
  }

  private Stream<TableListing> listings() {
    return record.versions().keySet().stream().flatMap(table -> listing(table).stream());
  }

  @Override
  public List<String> tables() {
    return listings().map(TableListing::name).sorted().toList();
  }

  @Override
  public List<String> droppedTables() {
    Stream<String> gone =
        record.versions().keySet().stream()
            .filter(table -> listing(table).isEmpty())
            .map(UUID::toString);
    Stream<String> dropped = listings().filter(TableListing::dropped).map(TableListing::name);
    return Stream.concat(dropped.sorted(), gone).toList();
  }

  @Override
  public boolean isEmpty() {
    return record.versions().entrySet().stream()
        .allMatch(
            read ->
                listing(read.getKey())
                    .map(listing -> listing.version() == read.getValue())
                    .orElse(false));
  }

  @Override
  public Changes changes(String table) {
    TableListing found =
        named(table, listing -> !listing.dropped())
            .or(() -> named(table, TableListing::dropped))
            .orElseThrow(() -> none(table));
    TableHistory history = TableHistory.of(found, pages);
    HistoryRecord read = read(found, history);
    return VersionChanges.between(changes.core(), history.pageOf(read), history.newest());
  }

  private Optional<TableListing> named(String table, Predicate<TableListing> kind) {
    return listings()
        .filter(listing -> listing.name().equals(table))
        .filter(kind)
        .max((one, other) -> Long.compare(one.version(), other.version()));
  }

  private NotFoundException none(String table) {
    return new NotFoundException(
        NotFoundException.Kind.TABLE,
        table,
        "Position %s does not read table %s. It reads %s."
            .formatted(name(), table, tables().isEmpty() ? "no table" : NearNames.list(tables())));
  }

  private HistoryRecord read(TableListing listing, TableHistory history) {
    long version = record.versions().get(listing.id());
    return history.recordOf(version).orElseThrow(() -> missed(listing, history, version));
  }

  private ExpiredException missed(TableListing listing, TableHistory history, long version) {
    return ExpiredException.ofVersion(
        listing.name(),
        version,
        "Position %s has missed changes of table %s: it has read up to version %d%s, its limit of %s ended at %s, and that version has expired since%s. Read table %s anew and set the position again."
            .formatted(
                name(),
                listing.name(),
                version,
                listing.version() > version + 1
                    ? ", so versions %d to %d are unread".formatted(version + 1, listing.version())
                    : ", so version %d is unread".formatted(listing.version()),
                limit(),
                record.moved().plus(record.limit()),
                history.expired(version).map(how -> " (" + how + ")").orElse(""),
                listing.name()),
        null);
  }

  private String limit() {
    Duration limit = record.limit();
    boolean isInDays = limit.equals(Duration.ofDays(limit.toDays()));
    return isInDays ? "P" + limit.toDays() + "D" : limit.toString();
  }

  @Override
  public void move() {
    if (isEmpty() && !isQuarterOver()) {
      changes.also(what(), PositionEdit.none(start, record), false);
      return;
    }
    Map<UUID, Long> read = new TreeMap<>();
    listings()
        .forEach(
            listing -> {
              HistoryRecord unused = read(listing, TableHistory.of(listing, pages));
              if (!listing.dropped()) {
                read.put(listing.id(), listing.version());
              }
            });
    changes.also(what(), new PositionEdit(start, name(), read, record.limit()), true);
  }

  private String what() {
    return "position " + name();
  }

  private boolean isQuarterOver() {
    Instant now = changes.core().clock().instant();
    boolean isHeld = start.page().upkeep().hold(HoldRecord.POSITION, name(), pages).isPresent();
    return !isHeld || !record.moved().plus(record.limit().dividedBy(QUARTER)).isAfter(now);
  }
}
