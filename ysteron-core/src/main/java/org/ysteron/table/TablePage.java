package org.ysteron.table;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Filter;
import org.ysteron.expr.Grouping;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.Edit;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;
import org.ysteron.tree.PageTree;
import org.ysteron.tree.TreeCursor;

/**
 * All that a table is at one version. Immutable.
 *
 * @param id the table's id for life
 * @param name its name then
 * @param form the columns, constraints and layout
 * @param olderSchemas the root of the tree of schemas before this one
 * @param olderLayouts the root of the tree of layouts before this one
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
    TableForm form,
    PageTree.Root olderSchemas,
    PageTree.Root olderLayouts,
    TableProperties properties,
    long nextFileNumber,
    long nextSerial,
    PageTree.Root files,
    PageTree.Root history,
    PageTree.Root writers,
    HistoryRecord record) {

  /** The first version of a new table. */
  public static TablePage create(
      UUID id, String name, TableForm form, TableProperties properties, CommitStamp commit) {
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
        form,
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
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

  /** The columns. */
  public Schema schema() {
    return form.schema();
  }

  /** Counts the schemas, from 0. */
  public long schemaVersion() {
    return form.schemaVersion();
  }

  /** Counts the layouts, from 0. */
  public long layoutVersion() {
    return form.layoutVersion();
  }

  /** This page with the columns of another one of the same table, which its files are read by. */
  public TablePage readBy(TablePage other) {
    return with(other.form, other.olderSchemas, other.olderLayouts);
  }

  private TablePage with(
      TableForm newForm, PageTree.Root newOlderSchemas, PageTree.Root newOlderLayouts) {
    HistoryRecord told =
        new HistoryRecord(
            record.version(),
            record.commit(),
            record.operation(),
            record.counts(),
            record.totals(),
            newForm.schemaVersion(),
            record.page());
    return remade(name, newForm, newOlderSchemas, newOlderLayouts, properties, history, told);
  }

  /** This page with other parts, and the same files and writers. */
  private TablePage remade(
      String newName,
      TableForm newForm,
      PageTree.Root newOlderSchemas,
      PageTree.Root newOlderLayouts,
      TableProperties newProperties,
      PageTree.Root newHistory,
      HistoryRecord newRecord) {
    return new TablePage(
        id,
        newName,
        newForm,
        newOlderSchemas,
        newOlderLayouts,
        newProperties,
        nextFileNumber,
        nextSerial,
        files,
        newHistory,
        writers,
        newRecord);
  }

  /** This version with another form; the one it has joins the older ones. */
  public TablePage withForm(TableForm changed, PageStore pages, PageBatch batch) {
    TableForm next = changed.after(form);
    PageTree.Root schemas = olderSchemas;
    PageTree.Root layouts = olderLayouts;
    long last = version() - 1;
    if (next.schemaVersion() != form.schemaVersion()) {
      schemas =
          older(FormRecord.Format.SCHEMAS, schemas, pages)
              .apply(put(form.schemaVersion(), last, form.schemaJson()), batch)
              .root();
    }
    if (next.layoutVersion() != form.layoutVersion()) {
      layouts =
          older(FormRecord.Format.LAYOUTS, layouts, pages)
              .apply(put(form.layoutVersion(), last, form.layout().toJson()), batch)
              .root();
    }
    return with(next, schemas, layouts);
  }

  private static List<Edit<FormRecord>> put(long number, long last, Map<String, Object> json) {
    FormRecord older = new FormRecord(number, last, Json.write(json));
    return List.of(Edit.put(older.key(), older));
  }

  private static PageTree<FormRecord, RecordFormat.Span> older(
      FormRecord.Format format, PageTree.Root root, PageStore pages) {
    return new PageTree<>(pages, format, root);
  }

  /** This page with other settings. */
  public TablePage withProperties(TableProperties changed) {
    return remade(name, form, olderSchemas, olderLayouts, changed, history, record);
  }

  private static JsonObject json(FormRecord older) {
    return JsonObject.parse(older.json().getBytes(StandardCharsets.UTF_8));
  }

  /** All layouts that the table has or had, by version. */
  public Map<Long, Layout> layouts(PageStore pages) {
    Map<Long, Layout> layouts = new TreeMap<>();
    if (olderLayouts.count() > 0) {
      TreeCursor<FormRecord, RecordFormat.Span> cursor =
          older(FormRecord.Format.LAYOUTS, olderLayouts, pages).cursor();
      while (cursor.next()) {
        layouts.put(cursor.value().number(), Layout.fromJson(json(cursor.value())));
      }
    }
    layouts.put(layoutVersion(), form.layout());
    return layouts;
  }

  /** How many files there are of a layout; reads two paths of the file tree. */
  public long filesOfLayout(long layout, PageStore pages) {
    PageTree<FileEntry, FileSummary> tree = fileTree(pages);
    return tree.rank(ByteBuffer.allocate(4).putInt((int) layout + 1).array())
        - tree.rank(ByteBuffer.allocate(4).putInt((int) layout).array());
  }

  /** The partition that a file is in, for people. */
  public String partition(FileEntry file, PageStore pages) {
    long number = file.numbers().layout();
    Layout layout = layouts(pages).getOrDefault(number, Layout.NONE);
    List<String> parts = new ArrayList<>();
    for (Partitioner partitioner : layout.partitioners(number, schema())) {
      parts.add(file.partText(partitioner));
    }
    return String.join(", ", parts);
  }

  /** Binds a condition, so that it prunes files by the layout of each. */
  public Filter filter(Condition condition, PageStore pages) {
    List<Grouping> groupings = new ArrayList<>();
    layouts(pages)
        .forEach((number, layout) -> groupings.addAll(layout.partitioners(number, schema())));
    return Filter.bind(condition.simplified(), schema(), groupings);
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
    List<HistoryRecord> records = new ArrayList<>();
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
            schemaVersion(),
            Optional.empty());
    return remade(name, form, olderSchemas, olderLayouts, properties, newHistory, next);
  }

  /** This page with another name. */
  public TablePage withName(String newName) {
    return remade(newName, form, olderSchemas, olderLayouts, properties, history, record);
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
    json.put("schema version", schemaVersion());
    json.put("schema", form.schemaJson());
    json.put("older schemas", olderSchemas.toText(home));
    json.put("layout version", layoutVersion());
    json.put("layout", form.layout().toJson());
    json.put("older layouts", olderLayouts.toText(home));
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
        TableForm.fromJson(
            json.object("schema"),
            json.number("schema version"),
            json.object("layout"),
            json.number("layout version")),
        PageTree.Root.parse(json.text("older schemas"), home),
        PageTree.Root.parse(json.text("older layouts"), home),
        new TableProperties(properties),
        json.number("next file number"),
        json.number("next serial"),
        PageTree.Root.parse(json.text("files"), home),
        PageTree.Root.parse(json.text("history"), home),
        PageTree.Root.parse(json.text("writers"), home),
        HistoryRecord.read(new ByteIn(HexFormat.of().parseHex(json.text("record"))), home));
  }
}
