package org.ysteron.internal.upkeep;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.Bookmark;
import org.ysteron.report.CommitStamp;

/** Names versions of tables and states of the lake, so that expiry keeps them. */
public final class Bookmarks {
  private Bookmarks() {}

  private static String check(String name) {
    HoldRecord.checkName(name, "bookmark");
    return name;
  }

  /**
   * Names a version of a table.
   *
   * @param version the version; empty for the newest
   * @param moves whether a bookmark of that name, which must then be there, is moved
   */
  public static Change ofTable(String name, UUID table, OptionalLong version, boolean moves) {
    check(name);
    return staging -> {
      refuse(staging, name, moves);
      TableListing listing =
          staging
              .table(table)
              .orElseThrow(
                  () ->
                      new NotFoundException(
                          NotFoundException.Kind.TABLE,
                          table.toString(),
                          "The table was dropped and has expired."));
      TableHistory history = TableHistory.of(listing, staging.pages());
      HistoryRecord record = history.byNumber(version.orElse(listing.version()));
      CommitStamp made = record.commit();
      put(
          staging,
          HoldRecord.bookmark(
              name, table, record.version(), made.entry(), staging.commit().time()));
    };
  }

  /**
   * Names the lake as of an entry.
   *
   * @param time when; empty for now
   * @param moves whether a bookmark of that name, which must then be there, is moved
   */
  public static Change ofLake(String name, Optional<Instant> time, boolean moves) {
    check(name);
    return staging -> {
      refuse(staging, name, moves);
      PageStore pages = staging.pages();
      LakeState base = staging.base();
      long number = base.number();
      LakePage then = base.page();
      if (time.isPresent() && base.entry().time().isAfter(time.get())) {
        EntryRecord record =
            base.page()
                .entryAt(time.get(), pages)
                .orElseThrow(
                    () ->
                        new NotFoundException(
                            NotFoundException.Kind.ENTRY,
                            time.get().toString(),
                            "At %s there was no lake. Nothing was changed.".formatted(time.get())));
        number = record.number();
        then = LakePage.read(record.page(), pages);
      }
      long entry = number;
      Map<UUID, Long> versions = then.versions(pages);
      for (Map.Entry<UUID, Long> table : versions.entrySet()) {
        TableListing listing =
            base.page()
                .table(table.getKey(), pages)
                .orElseThrow(
                    () ->
                        ExpiredException.ofEntry(
                            entry,
                            "A table that existed at entry %d has expired. Nothing was changed."
                                .formatted(entry),
                            null));
        TableHistory history = TableHistory.of(listing, pages);
        if (history.hasExpired(table.getValue())) {
          throw history.gone(table.getValue());
        }
      }
      put(staging, HoldRecord.bookmark(name, entry, versions, staging.commit().time()));
    };
  }

  private static void refuse(Staging staging, String name, boolean moves) {
    Optional<HoldRecord> there = find(staging.base(), name, staging.pages());
    if (moves && there.isEmpty()) {
      throw none(name, staging.base(), staging.pages());
    }
    if (staging.base().page().upkeep().position(name, staging.pages()).isPresent()) {
      throw new AlreadyExistsException(
          AlreadyExistsException.Kind.POSITION,
          name,
          "A reader's position has the name %s already. Nothing was changed; choose another name for the bookmark."
              .formatted(name));
    }
    if (!moves && there.isPresent()) {
      throw new AlreadyExistsException(
          AlreadyExistsException.Kind.BOOKMARK,
          name,
          "Bookmark %s already exists, for entry %d. Nothing was changed; move or drop it, or choose another name."
              .formatted(name, there.get().entry()));
    }
  }

  private static void put(Staging staging, HoldRecord hold) {
    edit(staging, Edit.put(hold.key(), hold));
  }

  private static void edit(Staging staging, Edit<HoldRecord> edit) {
    staging.edit(
        LakeFeature.HOLDS,
        (lake, own) -> lake.with(lake.upkeep().withHold(edit, staging.pages(), own)));
  }

  /** Drops a bookmark; what it kept is kept no more. */
  public static Change drop(String name) {
    return staging -> {
      HoldRecord hold = byName(staging.base(), name, staging.pages());
      edit(staging, Edit.remove(hold.key()));
    };
  }

  private static Optional<HoldRecord> find(LakeState state, String name, PageStore pages) {
    return state.page().upkeep().hold(HoldRecord.BOOKMARK, name, pages);
  }

  /**
   * The bookmark of a name.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public static HoldRecord byName(LakeState state, String name, PageStore pages) {
    return find(state, name, pages).orElseThrow(() -> none(name, state, pages));
  }

  /**
   * The version of a table that a bookmark names, by itself or with the lake.
   *
   * @throws NotFoundException when there is none, or it names none of the table
   */
  public static long versionOf(UUID table, LakeState state, String name, PageStore pages) {
    HoldRecord hold = byName(state, name, pages);
    Long version = hold.versions().get(table);
    if (version == null) {
      throw new NotFoundException(
          NotFoundException.Kind.BOOKMARK,
          name,
          "The bookmark %s does not name a version of this table, but %s."
              .formatted(
                  name,
                  hold.holdsEntry()
                      ? "the lake as of entry " + hold.entry() + ", which had no such table"
                      : "one of another table"));
    }
    return version;
  }

  /**
   * The entry of the lake that a bookmark names.
   *
   * @throws NotFoundException when there is none, or it names a version of a table
   */
  public static long entryOf(LakeState state, String name, PageStore pages) {
    HoldRecord hold = byName(state, name, pages);
    if (!hold.holdsEntry()) {
      throw new NotFoundException(
          NotFoundException.Kind.BOOKMARK,
          name,
          "The bookmark %s names a version of table %s, not the lake. Use it on the table."
              .formatted(name, told(hold, state, pages).table().orElse("")));
    }
    return hold.entry();
  }

  private static NotFoundException none(String name, LakeState state, PageStore pages) {
    List<String> names = all(state, pages).stream().map(Bookmark::name).toList();
    return new NotFoundException(
        NotFoundException.Kind.BOOKMARK,
        name,
        "There is no bookmark %s.%s".formatted(name, NearNames.didYouMean(name, names)));
  }

  /** All bookmarks, by name. */
  public static List<Bookmark> all(LakeState state, PageStore pages) {
    List<Bookmark> all = new ArrayList<>();
    for (HoldRecord hold : state.page().upkeep().holds(pages)) {
      if (hold.kind() == HoldRecord.BOOKMARK) {
        all.add(told(hold, state, pages));
      }
    }
    return all;
  }

  private static Bookmark told(HoldRecord hold, LakeState state, PageStore pages) {
    if (hold.holdsEntry() || hold.versions().isEmpty()) {
      return new Bookmark(
          hold.name(), Optional.empty(), OptionalLong.empty(), hold.entry(), hold.made());
    }
    Map.Entry<UUID, Long> of = hold.versions().entrySet().iterator().next();
    String table =
        state.page().table(of.getKey(), pages).map(TableListing::name).orElse("a lost table");
    return new Bookmark(
        hold.name(), Optional.of(table), OptionalLong.of(of.getValue()), hold.entry(), hold.made());
  }
}
