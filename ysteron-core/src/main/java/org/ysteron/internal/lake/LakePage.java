package org.ysteron.internal.lake;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.table.JsonPage;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.Reach;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.maintenance.LakeHealth;

/**
 * All that a lake is at one entry of its ledger. Immutable.
 *
 * <p>Of an older one only the names are sure to be there: the rest of the past is told by the
 * newest.
 *
 * @param lakeId the lake's id for life
 * @param names the root of the tree from names to tables, with their versions
 * @param tables the root of the tree from table ids to listings
 * @param entries the root of the tree of entries before this one
 * @param upkeep what upkeep remembers
 * @param others members that a later program put there
 */
public record LakePage(
    UUID lakeId,
    PageTree.Root names,
    PageTree.Root tables,
    PageTree.Root entries,
    UpkeepState upkeep,
    Map<String, Object> others)
    implements JsonPage.Content {
  private static final String[] MEMBERS =
      Stream.concat(
              Stream.of("page", "lake", "names", "tables", "entries"), UpkeepState.MEMBERS.stream())
          .toArray(String[]::new);

  /** The page of a lake without tables. */
  public static LakePage create(UUID lakeId) {
    return new LakePage(
        lakeId,
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
        UpkeepState.NONE,
        Map.of());
  }

  private PageTree<TableListing.Named, RecordFormat.Span> nameTree(PageStore pages) {
    return new PageTree<>(pages, TableListing.NameFormat.INSTANCE, names);
  }

  private PageTree<TableListing, RecordFormat.Span> tableTree(PageStore pages) {
    return new PageTree<>(pages, TableListing.Format.INSTANCE, tables);
  }

  private PageTree<EntryRecord, RecordFormat.Span> entryTree(PageStore pages) {
    return new PageTree<>(pages, EntryRecord.Format.INSTANCE, entries);
  }

  /** The table of a name; dropped ones have none. */
  public Optional<TableListing> table(String name, PageStore pages) {
    return nameTree(pages).get(key(name)).map(named -> listing(name, named.id(), pages));
  }

  private TableListing listing(String name, UUID id, PageStore pages) {
    return table(id, pages)
        .filter(listing -> listing.id().equals(id) && listing.name().equals(name))
        .orElseThrow(
            () ->
                new DamagedException(
                    "The lake lists the name of table %s (%s), but not the table. Restore it from a copy of the lake."
                        .formatted(name, id)));
  }

  /** The table of an id, dropped or not. */
  public Optional<TableListing> table(UUID id, PageStore pages) {
    return tableTree(pages).get(idKey(id));
  }

  /** All tables, by name; the dropped ones only or the others only. */
  public List<TableListing> tables(boolean dropped, PageStore pages) {
    List<TableListing> listings = new ArrayList<>();
    if (dropped) {
      TreeCursor<TableListing, ?> cursor = tableTree(pages).cursor();
      while (cursor.next()) {
        if (cursor.value().dropped()) {
          listings.add(cursor.value());
        }
      }
      listings.sort(Comparator.comparing(TableListing::name));
      return listings;
    }
    TreeCursor<TableListing.Named, ?> cursor = nameTree(pages).cursor();
    while (cursor.next()) {
      table(cursor.value().id(), pages).ifPresent(listings::add);
    }
    return listings;
  }

  /**
   * The table of a name as this page, an older one, has it.
   *
   * @param newest the newest page, through which the past is reached
   * @throws ExpiredException when the version of then is gone
   */
  public Optional<TableListing> tableThen(String name, LakePage newest, PageStore pages) {
    return nameTree(pages)
        .get(key(name))
        .map(
            named ->
                then(name, named, newest, pages)
                    .orElseThrow(
                        () ->
                            ExpiredException.ofVersion(
                                name,
                                named.version(),
                                "Version %d of table %s has expired. Look at a later state."
                                    .formatted(named.version(), name),
                                null)));
  }

  /**
   * All tables as this page, an older one, has them; those whose version of then is gone are left
   * out.
   */
  public List<TableListing> tablesThen(LakePage newest, PageStore pages) {
    List<TableListing> listings = new ArrayList<>();
    TreeCursor<TableListing.Named, ?> cursor = nameTree(pages).cursor();
    while (cursor.next()) {
      String name = new String(cursor.key(), StandardCharsets.UTF_8);
      then(name, cursor.value(), newest, pages).ifPresent(listings::add);
    }
    return listings;
  }

  /**
   * The names of the tables as this page, an older one, has them, whose version of then is gone.
   */
  public List<String> expiredThen(LakePage newest, PageStore pages) {
    List<String> expired = new ArrayList<>();
    TreeCursor<TableListing.Named, ?> cursor = nameTree(pages).cursor();
    while (cursor.next()) {
      String name = new String(cursor.key(), StandardCharsets.UTF_8);
      if (then(name, cursor.value(), newest, pages).isEmpty()) {
        expired.add(name);
      }
    }
    return expired;
  }

  /** The tables that are not dropped, with their versions, in the order of their names. */
  public Map<UUID, Long> versions(PageStore pages) {
    Map<UUID, Long> versions = new LinkedHashMap<>();
    TreeCursor<TableListing.Named, ?> cursor = nameTree(pages).cursor();
    while (cursor.next()) {
      versions.put(cursor.value().id(), cursor.value().version());
    }
    return versions;
  }

  /** A table at the version that a name stood for; empty when that has expired. */
  private static Optional<TableListing> then(
      String name, TableListing.Named named, LakePage newest, PageStore pages) {
    return newest
        .table(named.id(), pages)
        .flatMap(
            now ->
                TableHistory.of(now, pages)
                    .recordOf(named.version())
                    .map(record -> now.at(name, record)));
  }

  /**
   * The tables that were dropped as this page, an older one, has it: those that are not among its
   * names and have a version of its time.
   *
   * @param last the ordinal of the last commit of this page's entry
   */
  public List<TableListing> droppedThen(long last, LakePage newest, PageStore pages) {
    Set<UUID> named = new HashSet<>();
    TreeCursor<TableListing.Named, ?> names = nameTree(pages).cursor();
    while (names.next()) {
      named.add(names.value().id());
    }
    List<TableListing> listings = new ArrayList<>();
    TreeCursor<TableListing, ?> cursor = newest.tableTree(pages).cursor();
    while (cursor.next()) {
      TableListing now = cursor.value();
      if (!named.contains(now.id())) {
        TableHistory.of(now, pages)
            .lastUpTo(last)
            .ifPresent(record -> listings.add(now.droppedAt(record)));
      }
    }
    listings.sort(Comparator.comparing(TableListing::name));
    return listings;
  }

  /** This page with tables as a commit left them; their names follow. */
  public LakePage withTables(Collection<TableListing> changed, PageStore pages, PageBatch batch) {
    Map<byte[], Edit<TableListing.Named>> nameEdits = new TreeMap<>(Arrays::compareUnsigned);
    Map<byte[], Edit<TableListing>> edits = new TreeMap<>(Arrays::compareUnsigned);
    for (TableListing listing : changed) {
      table(listing.id(), pages)
          .filter(before -> !before.dropped())
          .filter(before -> listing.dropped() || !before.name().equals(listing.name()))
          .ifPresent(
              before -> nameEdits.putIfAbsent(key(before.name()), Edit.remove(key(before.name()))));
      if (!listing.dropped()) {
        byte[] key = key(listing.name());
        Unread unread =
            nameTree(pages).get(key).map(TableListing.Named::unread).orElse(Unread.NOTHING);
        TableListing.Named named = new TableListing.Named(listing.id(), listing.version(), unread);
        nameEdits.put(key, Edit.put(key, named));
      }
      edits.put(idKey(listing.id()), Edit.put(idKey(listing.id()), listing));
    }
    return new LakePage(
        lakeId,
        nameTree(pages).apply(List.copyOf(nameEdits.values()), batch).root(),
        tableTree(pages).apply(List.copyOf(edits.values()), batch).root(),
        entries,
        upkeep,
        others);
  }

  /** This page with the entry before it remembered. */
  public LakePage withEntry(EntryRecord record, PageStore pages, PageBatch batch) {
    Edit<EntryRecord> edit = Edit.put(VersionPage.versionKey(record.number()), record);
    return new LakePage(
        lakeId, names, tables, entryTree(pages).apply(List.of(edit), batch).root(), upkeep, others);
  }

  /** This page with other things that upkeep remembers. */
  public LakePage with(UpkeepState changed) {
    return new LakePage(lakeId, names, tables, entries, changed, others);
  }

  /** This page with remembered entries changed or taken out. */
  public LakePage withEntries(List<Edit<EntryRecord>> edits, PageStore pages, PageBatch batch) {
    PageTree.Root edited = entryTree(pages).apply(edits, batch).root();
    return new LakePage(lakeId, names, tables, edited, upkeep, others);
  }

  /** This page without a table, which can then not be brought back. */
  public LakePage without(TableListing dropped, PageStore pages, PageBatch batch) {
    Edit<TableListing> edit = Edit.remove(idKey(dropped.id()));
    return new LakePage(
        lakeId,
        names,
        tableTree(pages).apply(List.of(edit), batch).root(),
        entries,
        upkeep,
        others);
  }

  /** All tables, dropped or not, by id. */
  public TreeCursor<TableListing, ?> allTables(PageStore pages) {
    return tableTree(pages).cursor();
  }

  /**
   * The number of the last remembered entry, this page's own among them, that was there at a time;
   * 0 when there was none.
   */
  public long lastEntryAt(Instant time, EntryRecord own, PageStore pages) {
    if (!own.time().isAfter(time)) {
      return own.number();
    }
    long micros = Values.floorMicros(time);
    return entryTree(pages)
        .last(
            span -> span.first() <= micros,
            record -> EntryRecord.Format.INSTANCE.time(record) <= micros)
        .map(found -> found.getValue().number())
        .orElse(0L);
  }

  /** What is to be told of the erasures that are under way. */
  public List<LakeHealth.Erasure> unfinished(PageStore pages) {
    return upkeep.erasures(pages).stream()
        .map(
            erasure ->
                new LakeHealth.Erasure(
                    table(erasure.table(), pages)
                        .map(TableListing::name)
                        .orElse(erasure.table().toString()),
                    erasure.time(),
                    erasure.author(),
                    erasure.cleared() > 0))
        .toList();
  }

  /** All tables, dropped or not, by name. */
  public List<TableListing> allByName(PageStore pages) {
    List<TableListing> all = new ArrayList<>();
    TreeCursor<TableListing, ?> cursor = allTables(pages);
    while (cursor.next()) {
      all.add(cursor.value());
    }
    all.sort(Comparator.comparing(TableListing::name).thenComparing(TableListing::id));
    return all;
  }

  /** The remembered entries from a number on. */
  public TreeCursor<EntryRecord, ?> entriesFrom(long number, PageStore pages) {
    return entryTree(pages).cursorFrom(VersionPage.versionKey(number));
  }

  /** This page, with copies of what hangs on it, but for tables, where copies have to be. */
  public LakePage copied(PageCopies copies) {
    return new LakePage(
        lakeId,
        copies.tree(TableListing.NameFormat.INSTANCE, names, ref -> ref),
        copies.tree(TableListing.Format.INSTANCE, tables, ref -> ref),
        copies.tree(EntryRecord.Format.INSTANCE, entries, ref -> copyOfPast(ref, copies)),
        upkeep.copied(copies),
        others);
  }

  /** This page, with copies of the names and of the list of tables where copies have to be. */
  public LakePage copiedNames(PageCopies copies) {
    return new LakePage(
        lakeId,
        copies.tree(TableListing.NameFormat.INSTANCE, names, ref -> ref),
        copies.tree(TableListing.Format.INSTANCE, tables, ref -> ref),
        entries,
        upkeep,
        others);
  }

  /** Visits the pages of the names, without reading the last ones. */
  public void eachNamePage(PageStore pages, Predicate<PageRef> enters) {
    PageCopies.eachLeaf(pages, TableListing.NameFormat.INSTANCE, names, enters, (ref, count) -> {});
  }

  /** An older lake page, or a copy of what still counts of it. */
  public PageRef copyOfPast(PageRef ref, PageCopies copies) {
    return copies.copy(
        ref,
        () -> {
          LakePage then = read(ref, copies.pages());
          LakePage kept =
              new LakePage(
                  lakeId,
                  copies.tree(TableListing.NameFormat.INSTANCE, then.names, below -> below),
                  PageTree.Root.EMPTY,
                  PageTree.Root.EMPTY,
                  UpkeepState.NONE,
                  then.others);
          return kept.remembered(kept.write(copies.batch()));
        });
  }

  /** A reference to this page as an entry record has it: with nothing but the names followed. */
  public PageRef remembered(PageRef self) {
    return self.following(Reach.below(self.home(), Collections.singletonList(names.ref())));
  }

  /** The remembered entry of a number. */
  public Optional<EntryRecord> entry(long number, PageStore pages) {
    return entryTree(pages).get(VersionPage.versionKey(number));
  }

  /** The first entry that is remembered. */
  public Optional<EntryRecord> firstEntry(PageStore pages) {
    TreeCursor<EntryRecord, ?> cursor = entryTree(pages).cursor();
    return cursor.next() ? Optional.of(cursor.value()) : Optional.empty();
  }

  /**
   * The last remembered entry that was there at a time.
   *
   * @throws ExpiredException when the entry that was the newest then is gone
   */
  public Optional<EntryRecord> entryAt(Instant time, PageStore pages) {
    long micros = Values.floorMicros(time);
    Optional<EntryRecord> found =
        entryTree(pages)
            .last(
                span -> span.first() <= micros,
                record -> EntryRecord.Format.INSTANCE.time(record) <= micros)
            .map(Map.Entry::getValue);
    long next = found.map(record -> record.number() + 1).orElse(0L);
    TreeCursor<EntryRecord, ?> cursor = entryTree(pages).cursorFrom(VersionPage.versionKey(next));
    if (cursor.next() && cursor.value().missing().filter(gone -> !gone.isAfter(time)).isPresent()) {
      throw new ExpiredException(
          "The lake as of %s has expired; the next kept entry is %d, from %s."
              .formatted(time, cursor.value().number(), cursor.value().time()),
          null);
    }
    return found;
  }

  private static byte[] key(String name) {
    return name.getBytes(StandardCharsets.UTF_8);
  }

  private static byte[] idKey(UUID id) {
    return ByteBuffer.allocate(16)
        .putLong(id.getMostSignificantBits())
        .putLong(id.getLeastSignificantBits())
        .array();
  }

  @Override
  public Map<String, Object> toJson(PagePlace place) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "lake");
    json.put("lake", lakeId.toString());
    json.put("names", names.toText(place));
    json.put("tables", tables.toText(place));
    json.put("entries", entries.toText(place));
    upkeep.toJson(json, place);
    json.putAll(others);
    return json;
  }

  /** Writes this page into a batch. */
  public PageRef write(PageBatch batch) {
    List<PageRef> references = new ArrayList<>();
    for (PageTree.Root root : List.of(names, tables, entries)) {
      references.add(root.ref());
    }
    upkeep.roots().forEach(root -> references.add(root.ref()));
    return JsonPage.write(this, LakePage::parse, batch, references.toArray(PageRef[]::new));
  }

  /** Reads a page. */
  public static LakePage read(PageRef ref, PageStore pages) {
    return JsonPage.read(ref, pages, LakePage.class, LakePage::parse);
  }

  private static LakePage parse(JsonPage page) {
    JsonObject json = page.json("lake");
    return new LakePage(
        json.uuid("lake"),
        page.root("names"),
        page.root("tables"),
        page.root("entries"),
        UpkeepState.fromJson(page, json),
        json.except(MEMBERS));
  }
}
