package org.ysteron.table;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.tree.Edit;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;
import org.ysteron.tree.PageTree;
import org.ysteron.tree.TreeCursor;

/**
 * All that a lake is at one entry of its ledger. Immutable.
 *
 * @param lakeId the lake's id for life
 * @param names the root of the tree from names to table ids
 * @param tables the root of the tree from table ids to listings
 * @param entries the root of the tree of entries before this one
 */
public record LakePage(
    UUID lakeId, PageTree.Root names, PageTree.Root tables, PageTree.Root entries) {

  /** The page of a lake without tables. */
  public static LakePage create(UUID lakeId) {
    return new LakePage(lakeId, PageTree.Root.EMPTY, PageTree.Root.EMPTY, PageTree.Root.EMPTY);
  }

  private PageTree<UUID, RecordFormat.Span> nameTree(PageStore pages) {
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
    return nameTree(pages)
        .get(name.getBytes(StandardCharsets.UTF_8))
        .flatMap(id -> table(id, pages));
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
      listings.sort(java.util.Comparator.comparing(TableListing::name));
      return listings;
    }
    TreeCursor<UUID, ?> cursor = nameTree(pages).cursor();
    while (cursor.next()) {
      table(cursor.value(), pages).ifPresent(listings::add);
    }
    return listings;
  }

  /** This page with a table's new page; its name follows. */
  public LakePage withTable(
      TablePage table, boolean dropped, PageRef page, PageStore pages, PageBatch batch) {
    List<Edit<UUID>> nameEdits = new ArrayList<>();
    Optional<TableListing> before = table(table.id(), pages);
    boolean had = before.isPresent() && !before.get().dropped();
    if (had && (dropped || !before.get().name().equals(table.name()))) {
      nameEdits.add(Edit.remove(before.get().name().getBytes(StandardCharsets.UTF_8)));
    }
    if (!dropped && !(had && before.get().name().equals(table.name()))) {
      nameEdits.add(Edit.put(table.name().getBytes(StandardCharsets.UTF_8), table.id()));
    }
    nameEdits.sort((a, b) -> java.util.Arrays.compareUnsigned(a.key(), b.key()));
    TableListing listing = TableListing.of(table, dropped, page);
    return new LakePage(
        lakeId,
        nameTree(pages).apply(nameEdits, batch).root(),
        tableTree(pages).apply(List.of(Edit.put(idKey(table.id()), listing)), batch).root(),
        entries);
  }

  /** This page with the entry before it remembered. */
  public LakePage withEntry(EntryRecord record, PageStore pages, PageBatch batch) {
    Edit<EntryRecord> edit = Edit.put(TablePage.versionKey(record.commit().entry()), record);
    return new LakePage(lakeId, names, tables, entryTree(pages).apply(List.of(edit), batch).root());
  }

  /** The remembered entry of a number. */
  public Optional<EntryRecord> entry(long number, PageStore pages) {
    return entryTree(pages).get(TablePage.versionKey(number));
  }

  /** The last remembered entry that was there at a time, in microseconds. */
  public Optional<EntryRecord> entryAt(long micros, PageStore pages) {
    return entryTree(pages)
        .last(
            span -> span.first() <= micros,
            record -> EntryRecord.Format.INSTANCE.time(record) <= micros)
        .map(Map.Entry::getValue);
  }

  private static byte[] idKey(UUID id) {
    return ByteBuffer.allocate(16)
        .putLong(id.getMostSignificantBits())
        .putLong(id.getLeastSignificantBits())
        .array();
  }

  /** Writes this page into a batch. */
  public PageRef write(PageBatch batch) {
    PageHome home = batch.home();
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "lake");
    json.put("lake", lakeId.toString());
    json.put("names", names.toText(home));
    json.put("tables", tables.toText(home));
    json.put("entries", entries.toText(home));
    return batch.add(Json.write(json).getBytes(StandardCharsets.UTF_8));
  }

  /** Reads a page. */
  public static LakePage read(PageRef ref, PageStore pages) {
    return pages.decoded(ref, bytes -> parse(bytes, ref.home()));
  }

  private static LakePage parse(byte[] bytes, PageHome home) {
    JsonObject json = JsonObject.parse(bytes);
    return new LakePage(
        json.uuid("lake"),
        PageTree.Root.parse(json.text("names"), home),
        PageTree.Root.parse(json.text("tables"), home),
        PageTree.Root.parse(json.text("entries"), home));
  }
}
