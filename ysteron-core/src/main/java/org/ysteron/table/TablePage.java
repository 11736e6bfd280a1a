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
import org.ysteron.expr.ColumnRange;
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
        id, name, schema, 0, 0, properties, 0, 0, PageTree.Root.EMPTY, PageTree.Root.EMPTY, record);
  }

  public long version() {
    return record.version();
  }

  /** The tree of file entries. */
  public PageTree<FileEntry, FileSummary> fileTree(PageStore pages) {
    return new PageTree<>(pages, FileFormat.INSTANCE, files);
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
   * The next version of this table, whose own record joins its history.
   *
   * @param self where this page is
   */
  public TablePage next(
      PageRef self,
      PageStore pages,
      PageBatch batch,
      CommitStamp commit,
      String operation,
      HistoryRecord.Counts counts) {
    PageTree.Root longer =
        historyTree(pages)
            .apply(List.of(Edit.put(versionKey(version()), record.at(self))), batch)
            .root();
    HistoryRecord next =
        new HistoryRecord(
            version() + 1,
            commit,
            operation,
            counts,
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
        longer,
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
        record);
  }

  /** This page with new data files, given in order; each gets its number, serials and birth. */
  public TablePage withFiles(List<StagedFile> staged, PageStore pages, PageBatch batch) {
    List<Edit<FileEntry>> edits = new java.util.ArrayList<>();
    long number = nextFileNumber;
    long serial = nextSerial;
    HistoryRecord.Totals totals = record.totals();
    for (StagedFile file : staged) {
      FileEntry entry =
          FileEntry.of(
              new FileEntry.Numbers(
                  number,
                  number,
                  file.start(),
                  file.size(),
                  file.rows(),
                  0,
                  layoutVersion,
                  file.schemaVersion(),
                  file.lastFieldId(),
                  version(),
                  serial,
                  file.footerLength()),
              file.id(),
              file.footerHash(),
              file.hash(),
              file.ranges());
      edits.add(Edit.put(entry.key(), entry));
      number++;
      serial += file.rows();
      totals = totals.plus(1, file.rows(), file.size());
    }
    PageTree.Root newFiles = fileTree(pages).apply(edits, batch).root();
    HistoryRecord counted =
        new HistoryRecord(
            version(),
            record.commit(),
            record.operation(),
            record.counts(),
            totals,
            schemaVersion,
            Optional.empty());
    return new TablePage(
        id,
        name,
        schema,
        schemaVersion,
        layoutVersion,
        properties,
        number,
        serial,
        newFiles,
        history,
        counted);
  }

  /**
   * A data file that was written but is in no table yet. It can be sent to the process that
   * commits.
   *
   * @param id its id
   * @param start the ledger entry from which its writer started
   * @param size bytes
   * @param rows rows
   * @param schemaVersion the schema it was written by
   * @param lastFieldId the highest field id of that schema
   * @param footerLength bytes of its footer
   * @param footerHash SHA-256 from the footer on
   * @param hash SHA-256 of all of it
   * @param ranges ranges by field id
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
  public record StagedFile(
      UUID id,
      long start,
      long size,
      long rows,
      long schemaVersion,
      long lastFieldId,
      long footerLength,
      byte[] footerHash,
      byte[] hash,
      Map<Integer, ColumnRange> ranges) {}

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
    json.put("writers", "");
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
        HistoryRecord.read(new ByteIn(HexFormat.of().parseHex(json.text("record"))), home));
  }
}
