package org.ysteron.internal.position;

import java.time.Duration;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.PositionRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.Position;

/** The positions of named readers. */
public final class ReaderPositions {
  /** How long a position holds what it has yet to read, unless it says otherwise. */
  public static final Duration LIMIT = Duration.ofDays(30);

  private ReaderPositions() {}

  /** All positions of a state, by name. */
  public static List<Position> all(LakeState state, PageStore pages) {
    return state.page().upkeep().positions(pages).stream()
        .map(record -> told(record, state, pages))
        .toList();
  }

  /**
   * The position of a name.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public static Position byName(LakeState state, String name, PageStore pages) {
    return told(find(state, name, pages), state, pages);
  }

  private static PositionRecord find(LakeState state, String name, PageStore pages) {
    UpkeepState upkeep = state.page().upkeep();
    return upkeep.position(name, pages).orElseThrow(() -> none(upkeep, name, pages));
  }

  private static NotFoundException none(UpkeepState upkeep, String name, PageStore pages) {
    List<String> names = upkeep.positions(pages).stream().map(PositionRecord::name).toList();
    boolean isBookmark = upkeep.hold(HoldRecord.BOOKMARK, name, pages).isPresent();
    return new NotFoundException(
        NotFoundException.Kind.POSITION,
        name,
        "There is no position %s.%s"
            .formatted(
                name,
                isBookmark
                    ? " It is the name of a bookmark; set a position of another name."
                    : NearNames.didYouMean(name, names)));
  }

  private static Position told(PositionRecord record, LakeState state, PageStore pages) {
    List<Position.OfTable> tables = new ArrayList<>();
    record
        .versions()
        .forEach(
            (table, version) ->
                tables.add(
                    state
                        .page()
                        .table(table, pages)
                        .map(listing -> told(listing, version, pages))
                        .orElseGet(
                            () ->
                                new Position.OfTable(
                                    table.toString(), version, version, true, true))));
    tables.sort(Comparator.comparing(Position.OfTable::table));
    return new Position(
        record.name(), record.entry(), record.moves(), tables, record.moved(), record.limit());
  }

  private static Position.OfTable told(TableListing listing, long version, PageStore pages) {
    boolean isMissed = !TableHistory.isKept(listing, version, pages);
    return new Position.OfTable(
        listing.name(), version, listing.version(), listing.dropped(), isMissed);
  }

  /** What a reader has yet to read, inside of a transaction. */
  public static ReaderPosition open(ChangeSet changes, String name) {
    return new OpenPosition(changes, find(changes.start(), name, changes.core().pages()));
  }

  /**
   * Creates a position, or sets an existing one anew, when a transaction is committed.
   *
   * @param versions the versions of tables that count as read, by the names of the tables; empty
   *     for the one that a table has when the transaction starts
   * @throws InvalidInputException when it would go back
   */
  public static void set(
      ChangeSet changes, String name, Duration limit, Map<String, Optional<Long>> versions) {
    HoldRecord.checkName(name, "position");
    checkLimit(limit);
    LakeState start = changes.start();
    PageStore pages = changes.core().pages();
    UpkeepState upkeep = start.page().upkeep();
    if (upkeep.hold(HoldRecord.BOOKMARK, name, pages).isPresent()) {
      throw new AlreadyExistsException(
          AlreadyExistsException.Kind.BOOKMARK,
          name,
          "A bookmark has the name %s already. Nothing was changed; choose another name for the position."
              .formatted(name));
    }
    if (versions.isEmpty()) {
      throw new InvalidInputException(
          "The position %s names no table. Name the tables whose changes are to be read."
              .formatted(name));
    }
    if (versions.size() > PositionRecord.MOST_TABLES) {
      throw new InvalidInputException(
          "The position %s names %d tables; the limit is %d."
              .formatted(name, versions.size(), PositionRecord.MOST_TABLES));
    }
    Map<UUID, Long> read = new TreeMap<>();
    versions.forEach(
        (table, version) -> {
          TableListing listing = table(start, table, pages);
          TableHistory history = TableHistory.of(listing, pages);
          long number =
              version.map(chosen -> history.byNumber(chosen).version()).orElse(listing.version());
          read.put(listing.id(), number);
        });
    upkeep.position(name, pages).ifPresent(before -> refuseBack(before, read, start, pages));
    Duration lasts = limit.truncatedTo(ChronoUnit.MICROS);
    changes.also("position " + name, new PositionEdit(start, name, read, lasts), true);
  }

  /** The newest versions of some tables. */
  public static Map<String, Optional<Long>> newest(String... tables) {
    Map<String, Optional<Long>> newest = new TreeMap<>();
    for (String table : tables) {
      newest.put(table, Optional.empty());
    }
    return newest;
  }

  private static void checkLimit(Duration limit) {
    if (limit.compareTo(PositionRecord.SHORTEST) < 0
        || limit.compareTo(PositionRecord.LONGEST) > 0) {
      throw new InvalidInputException(
          "The limit %s of a position is not possible. Give one microsecond or more, and at most %d days."
              .formatted(limit, PositionRecord.LONGEST.toDays()));
    }
  }

  private static TableListing table(LakeState start, String name, PageStore pages) {
    return start
        .page()
        .table(name, pages)
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.TABLE,
                    name,
                    "There is no table %s.%s"
                        .formatted(
                            name,
                            NearNames.didYouMean(
                                name,
                                start.page().tables(false, pages).stream()
                                    .map(TableListing::name)
                                    .toList()))));
  }

  private static void refuseBack(
      PositionRecord before, Map<UUID, Long> read, LakeState start, PageStore pages) {
    read.forEach(
        (table, version) -> {
          Long was = before.versions().get(table);
          if (was != null && version < was) {
            throw new InvalidInputException(
                "Position %s has read table %s up to version %d, and cannot go back to version %d. Nothing was changed; to read these changes again, drop the position and set it anew."
                    .formatted(
                        before.name(),
                        start.page().table(table, pages).map(TableListing::name).orElse(""),
                        was,
                        version));
          }
        });
  }

  /**
   * Drops a position when a transaction is committed; what it held is held no more.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public static void drop(ChangeSet changes, String name) {
    PositionRecord known = find(changes.start(), name, changes.core().pages());
    changes.also(
        "position " + known.name(), new PositionEdit(changes.start(), name, Map.of(), null), true);
  }
}
