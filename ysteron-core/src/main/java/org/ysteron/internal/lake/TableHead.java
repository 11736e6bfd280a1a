package org.ysteron.internal.lake;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.JsonPage;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;

/**
 * What a table knows of its past and of who writes to it. It counts only as the newest lake page
 * has it: older ones may refer to what is gone. Immutable.
 *
 * @param id the table
 * @param history the root of the tree of versions before the newest
 * @param writers the root of the tree of named writers
 * @param expired versions that are gone, the oldest first
 * @param others members that a later program put there
 */
public record TableHead(
    UUID id,
    PageTree.Root history,
    PageTree.Root writers,
    List<ExpiredRun> expired,
    Map<String, Object> others)
    implements JsonPage.Content {
  /** The head of a new table. */
  static TableHead create(UUID id) {
    return new TableHead(id, PageTree.Root.EMPTY, PageTree.Root.EMPTY, List.of(), Map.of());
  }

  /** A head of all that is known, built from nothing. */
  public static TableHead of(
      UUID id,
      List<HistoryRecord> records,
      List<WriterRecord> writers,
      List<ExpiredRun> expired,
      Map<String, Object> others,
      PageStore pages,
      PageBatch batch) {
    TableHead none = new TableHead(id, PageTree.Root.EMPTY, PageTree.Root.EMPTY, expired, others);
    List<Edit<HistoryRecord>> versions = new ArrayList<>();
    records.forEach(
        record -> versions.add(Edit.put(VersionPage.versionKey(record.version()), record)));
    List<Edit<WriterRecord>> named = new ArrayList<>();
    writers.forEach(writer -> named.add(Edit.put(writer.key(), writer)));
    return new TableHead(
        id,
        none.historyTree(pages).apply(versions, batch).root(),
        none.writerTree(pages).apply(named, batch).root(),
        expired,
        others);
  }

  public PageTree<HistoryRecord, RecordFormat.Span> historyTree(PageStore pages) {
    return new PageTree<>(pages, HistoryRecord.Format.INSTANCE, history);
  }

  public PageTree<WriterRecord, RecordFormat.Span> writerTree(PageStore pages) {
    return new PageTree<>(pages, WriterRecord.Format.INSTANCE, writers);
  }

  /** The versions before the newest that are kept, in their order; the caller's own. */
  public List<HistoryRecord> records(PageStore pages) {
    List<HistoryRecord> records = new ArrayList<>();
    TreeCursor<HistoryRecord, ?> cursor = historyTree(pages).cursor();
    while (cursor.next()) {
      records.add(cursor.value());
    }
    return records;
  }

  /** What is remembered of a named writer. */
  public Optional<WriterRecord> writer(String name, PageStore pages) {
    return writerTree(pages).get(name.getBytes(StandardCharsets.UTF_8));
  }

  /** This head when a version has got a successor. */
  TableHead with(HistoryRecord superseded, PageStore pages, PageBatch batch) {
    byte[] key = VersionPage.versionKey(superseded.version());
    PageTree.Root longer =
        historyTree(pages).apply(List.of(Edit.put(key, superseded)), batch).root();
    return new TableHead(id, longer, writers, expired, others);
  }

  /** This head with what a named writer has done. */
  public TableHead with(WriterRecord record, PageStore pages, PageBatch batch) {
    PageTree.Root told =
        writerTree(pages).apply(List.of(Edit.put(record.key(), record)), batch).root();
    return new TableHead(id, history, told, expired, others);
  }

  /** This head, with copies of what hangs on it where copies have to be. */
  public TableHead copied(PageCopies copies) {
    return new TableHead(
        id,
        copies.tree(HistoryRecord.Format.INSTANCE, history, ref -> copyOfVersion(ref, copies)),
        copies.tree(WriterRecord.Format.INSTANCE, writers, ref -> ref),
        expired,
        others);
  }

  /** A version page, or a copy of it. */
  public static PageRef copyOfVersion(PageRef ref, PageCopies copies) {
    return copies.copy(
        ref, () -> VersionPage.read(ref, copies.pages()).copied(copies).write(copies.batch()));
  }

  /**
   * This head without some versions.
   *
   * @param edits of its history
   * @param runs the versions that go, as it is to remember them
   */
  public TableHead without(
      List<Edit<HistoryRecord>> edits, List<ExpiredRun> runs, PageStore pages, PageBatch batch) {
    return redacted(edits, ExpiredRun.united(expired, runs), pages, batch);
  }

  /** This head with records of versions changed. */
  public TableHead redacted(
      List<Edit<HistoryRecord>> edits, List<ExpiredRun> runs, PageStore pages, PageBatch batch) {
    PageTree.Root changed = historyTree(pages).apply(edits, batch).root();
    return new TableHead(id, changed, writers, List.copyOf(runs), others);
  }

  @Override
  public Map<String, Object> toJson(PagePlace place) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "head");
    json.put("table", id.toString());
    json.put("history", history.toText(place));
    json.put("writers", writers.toText(place));
    json.put("expired", expired.stream().map(ExpiredRun::toJson).toList());
    json.putAll(others);
    return json;
  }

  /** Writes this page into a batch. */
  public PageRef write(PageBatch batch) {
    return JsonPage.write(this, TableHead::parse, batch, history.ref(), writers.ref());
  }

  /** Reads a page. */
  public static TableHead read(PageRef ref, PageStore pages) {
    return JsonPage.read(ref, pages, TableHead.class, TableHead::parse);
  }

  private static TableHead parse(JsonPage page) {
    JsonObject json = page.json("head");
    List<ExpiredRun> expired = new ArrayList<>();
    for (JsonObject run : json.objects("expired", ExpiredRun.MOST)) {
      expired.add(ExpiredRun.fromJson(run));
    }
    return new TableHead(
        json.uuid("table"),
        page.root("history"),
        page.root("writers"),
        List.copyOf(expired),
        json.except("page", "table", "history", "writers", "expired"));
  }
}
