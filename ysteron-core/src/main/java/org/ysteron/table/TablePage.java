package org.ysteron.table;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.SchemaJson;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.Edit;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;
import org.ysteron.tree.PageTree;

/**
 * All that a table is at one version. Immutable.
 *
 * @param id the table's id for life
 * @param name its name then
 * @param schema the columns
 * @param schemaVersion counts the schemas, from 0
 * @param layoutVersion counts the layouts, from 0
 * @param properties the settings
 * @param nextFileNumber the number of the next file
 * @param nextSerial the serial of the next row
 * @param files the root of the tree of file entries
 * @param history the root of the tree of versions before this one
 * @param writers the root of the tree of named writers
 * @param record this version
 */
public record TablePage(
    UUID id,
    String name,
    Schema schema,
    long schemaVersion,
    long layoutVersion,
    TableProperties properties,
    long nextFileNumber,
    long nextSerial,
    PageTree.Root files,
    PageTree.Root history,
    PageTree.Root writers,
    HistoryRecord record) {

  /** The first version of a new table. */
  public static TablePage create(
      UUID id, String name, Schema schema, TableProperties properties, CommitStamp commit) {
    HistoryRecord record =
        new HistoryRecord(
            0,
            commit,
            "create",
            HistoryRecord.Counts.NOTHING,
            HistoryRecord.Totals.NOTHING,
            0,
            Optional.empty());
    return new TablePage(
        id,
        name,
        schema,
        0,
        0,
        properties,
        0,
        0,
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
        record);
  }

  public long version() {
    return record.version();
  }

  /** The tree of file entries. */
  public PageTree<FileEntry, FileSummary> fileTree(PageStore pages) {
    return new PageTree<>(pages, FileFormat.INSTANCE, files);
  }

  PageTree<WriterRecord, RecordFormat.Span> writerTree(PageStore pages) {
    return new PageTree<>(pages, WriterRecord.Format.INSTANCE, writers);
  }

  private PageTree<HistoryRecord, RecordFormat.Span> historyTree(PageStore pages) {
    return new PageTree<>(pages, HistoryRecord.Format.INSTANCE, history);
  }

  /** The record of a version of this table up to this one; empty when there is none. */
  public Optional<HistoryRecord> recordOf(long version, PageStore pages) {
    if (version == version()) {
      return Optional.of(record);
    }
    return version < 0 || version > version()
        ? Optional.empty()
        : historyTree(pages).get(versionKey(version));
  }

  /** The page of a version whose record this page gave. */
  public TablePage pageOf(HistoryRecord found, PageStore pages) {
    return found.page().map(ref -> read(ref, pages)).orElse(this);
  }

  /** The record of the last version up to this one that was there at a time, in microseconds. */
  public Optional<HistoryRecord> recordAt(long micros, PageStore pages) {
    if (HistoryRecord.Format.INSTANCE.time(record) <= micros) {
      return Optional.of(record);
    }
    return historyTree(pages)
        .last(
            span -> span.first() <= micros,
            value -> HistoryRecord.Format.INSTANCE.time(value) <= micros)
        .map(Map.Entry::getValue);
  }

  /** The records of all versions up to this one, the newest first, at most so many. */
  public List<HistoryRecord> records(int limit, PageStore pages) {
    List<HistoryRecord> records = new java.util.ArrayList<>();
    for (long v = version(); v >= 0 && records.size() < limit; v--) {
      recordOf(v, pages).ifPresent(records::add);
    }
    return records;
  }

  /**
   * The next version of this table, whose own record joins its history; its counts are to come.
   *
   * @param self where this page is
   */
  public TablePage next(
      PageRef self, PageStore pages, PageBatch batch, CommitStamp commit, String operation) {
    PageTree.Root longer =
        historyTree(pages)
            .apply(List.of(Edit.put(versionKey(version()), record.at(self))), batch)
            .root();
    return follow(commit, operation, longer);
  }

  /** The next version as a transaction sees it that has not committed; its history is as before. */
  public TablePage draft(CommitStamp commit) {
    return follow(commit, "draft", history);
  }

  private TablePage follow(CommitStamp commit, String operation, PageTree.Root newHistory) {
    HistoryRecord next =
        new HistoryRecord(
            version() + 1,
            commit,
            operation,
            HistoryRecord.Counts.NOTHING,
            record.totals(),
            schemaVersion,
            Optional.empty());
    return new TablePage(
        id,
        name,
        schema,
        schemaVersion,
        layoutVersion,
        properties,
        nextFileNumber,
        nextSerial,
        files,
        newHistory,
        writers,
        next);
  }

  /** This page with another name. */
  public TablePage withName(String newName) {
    return new TablePage(
        id,
        newName,
        schema,
        schemaVersion,
        layoutVersion,
        properties,
        nextFileNumber,
        nextSerial,
        files,
        history,
        writers,
        record);
  }

  /** This page with new data files, given in order; each gets its number, serials and birth. */
  public TablePage withFiles(List<StagedFile> staged, PageStore pages, PageBatch batch) {
    NextVersion next = new NextVersion(this, pages, batch);
    staged.forEach(next::add);
    return next.build();
  }

  /** What is remembered of a named writer. */
  public Optional<WriterRecord> writer(String writer, PageStore pages) {
    return writerTree(pages).get(writer.getBytes(StandardCharsets.UTF_8));
  }

  static byte[] versionKey(long version) {
    return ByteBuffer.allocate(8).putLong(version).array();
  }

  /** Writes this page into a batch. */
  public PageRef write(PageBatch batch) {
    PageHome home = batch.home();
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "table");
    json.put("table", id.toString());
    json.put("name", name);
    json.put("schema version", schemaVersion);
    json.put("schema", SchemaJson.toJson(schema));
    json.put("older schemas", "");
    json.put("layout version", layoutVersion);
    json.put("layout", Map.of());
    json.put("older layouts", "");
    json.put("properties", new TreeMap<>(properties.values()));
    json.put("next file number", nextFileNumber);
    json.put("next serial", nextSerial);
    json.put("files", files.toText(home));
    json.put("history", history.toText(home));
    json.put("bookmarks", "");
    json.put("writers", writers.toText(home));
    ByteOut own = new ByteOut();
    record.write(own, home);
    json.put("record", HexFormat.of().formatHex(own.toByteArray()));
    return batch.add(Json.write(json).getBytes(StandardCharsets.UTF_8));
  }

  /** Reads a page. */
  public static TablePage read(PageRef ref, PageStore pages) {
    return pages.decoded(ref, bytes -> parse(bytes, ref.home()));
  }

  private static TablePage parse(byte[] bytes, PageHome home) {
    JsonObject json = JsonObject.parse(bytes);
    Map<String, Long> properties = new TreeMap<>();
    json.object("properties")
        .members()
        .forEach((name, value) -> properties.put((String) name, ((Number) value).longValue()));
    return new TablePage(
        json.uuid("table"),
        json.text("name"),
        SchemaJson.fromJson(json.object("schema").members()),
        json.number("schema version"),
        json.number("layout version"),
        new TableProperties(properties),
        json.number("next file number"),
        json.number("next serial"),
        PageTree.Root.parse(json.text("files"), home),
        PageTree.Root.parse(json.text("history"), home),
        PageTree.Root.parse(json.text("writers"), home),
        HistoryRecord.read(new ByteIn(HexFormat.of().parseHex(json.text("record"))), home));
  }
}
