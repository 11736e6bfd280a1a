package org.ysteron.commit;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.data.Sha256;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.HistoryRecord;
import org.ysteron.table.JsonObject;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * The head of a ledger entry: lines of JSON for people. {@code docs/format.md} gives them.
 *
 * @param lakeId the lake
 * @param commit number, time, who, why
 * @param start the entry from which the writer started
 * @param parent the hash of the entry before, empty for entry 0
 * @param mustRead features that a reader must know
 * @param mustWrite features that a writer must know
 * @param tables what the commit did to each table
 * @param page the lake page
 * @param labels names and values of the writer's own
 * @param hash this entry's hash
 */
record EntryHead(
    UUID lakeId,
    CommitStamp commit,
    long start,
    String parent,
    List<String> mustRead,
    List<String> mustWrite,
    List<TableLine> tables,
    PageRef page,
    Map<String, String> labels,
    String hash) {

  static final int FORMAT = 1;

  private static final String MARK = "ysteron";
  private static final String MASKED = "files masked";
  private static final String LABELS = "labels";
  private static final int LONGEST_HEAD = 1 << 24;

  /** What a commit did to a table, for people. */
  record TableLine(
      String name, UUID id, long version, String operation, HistoryRecord.Counts counts) {
    private Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("table", name);
      json.put("id", id.toString());
      json.put("version", version);
      json.put("operation", operation);
      json.put("files added", counts.filesAdded());
      json.put("rows added", counts.rowsAdded());
      json.put("files removed", counts.filesRemoved());
      json.put("rows removed", counts.rowsRemoved());
      if (counts.filesMasked() > 0) {
        json.put(MASKED, counts.filesMasked());
      }
      return json;
    }

    private static TableLine fromJson(JsonObject json) {
      return new TableLine(
          json.text("table"),
          json.uuid("id"),
          json.number("version"),
          json.text("operation"),
          new HistoryRecord.Counts(
              json.number("files added"),
              json.number("rows added"),
              json.number("files removed"),
              json.number("rows removed"),
              json.members().containsKey(MASKED) ? json.number(MASKED) : 0));
    }
  }

  /** An encoded entry. */
  @SuppressWarnings("ArrayRecordComponent") // handed on once, never compared
  record Encoded(byte[] bytes, String hash, long pagesStart) {}

  /** The bytes of an entry with some pages of its own; {@link #hash} is not looked at. */
  Encoded encode(byte[] pages, PageHome home) {
    Map<String, Object> first = new LinkedHashMap<>();
    first.put(MARK, "entry");
    first.put("format", FORMAT);
    first.put("lake", lakeId.toString());
    first.put("number", commit.entry());
    first.put("parent", parent);
    first.put("time", commit.time().toString());
    first.put("commit", commit.commitId().toString());
    first.put("start", start);
    first.put("author", commit.author());
    first.put("program", commit.program());
    first.put("note", commit.note());
    first.put("statement", commit.statement());
    first.put("readers must know", mustRead);
    first.put("writers must know", mustWrite);
    if (!labels.isEmpty()) {
      first.put(LABELS, labels);
    }
    ByteOut head = new ByteOut();
    line(head, first);
    tables.forEach(table -> line(head, table.toJson()));
    Map<String, Object> last = new LinkedHashMap<>();
    last.put("pages", pages.length);
    last.put("lake page", page.toText(home));
    line(head, last);
    head.raw(endLine(head.toByteArray()));
    byte[] lines = head.toByteArray();
    return new Encoded(head.raw(pages).toByteArray(), hex(Sha256.of(lines)), lines.length);
  }

  private static void line(ByteOut out, Map<String, Object> json) {
    out.raw(Json.write(json).getBytes(StandardCharsets.UTF_8)).u8('\n');
  }

  private static byte[] endLine(byte[] before) {
    return ("{\"head\":\"" + hex(Sha256.of(before)) + "\"}\n").getBytes(StandardCharsets.UTF_8);
  }

  private static String hex(byte[] bytes) {
    return HexFormat.of().formatHex(bytes);
  }

  /**
   * Reads and checks a head; the pages behind it are checked when they are read.
   *
   * @param name the object's name, for messages
   */
  static EntryHead parse(byte[] entry, long number, String name) {
    try {
      return parse(entry, number);
    } catch (DamagedException | InvalidInputException | ClassCastException e) {
      throw new DamagedException(
          "Ledger entry %s is damaged: %s Restore it from a copy of the lake."
              .formatted(name, e.getMessage()),
          e);
    }
  }

  private static EntryHead parse(byte[] entry, long number) {
    List<JsonObject> lines = new ArrayList<>();
    int start = 0;
    while (true) {
      int end = start;
      while (end < entry.length && entry[end] != '\n' && end < LONGEST_HEAD) {
        end++;
      }
      if (end == entry.length || end >= LONGEST_HEAD) {
        throw new DamagedException("its head has no end.");
      }
      String text = new String(entry, start, end - start, StandardCharsets.UTF_8);
      if (text.startsWith("{\"head\":")) {
        byte[] before = java.util.Arrays.copyOf(entry, start);
        byte[] expected = endLine(before);
        byte[] found = java.util.Arrays.copyOfRange(entry, start, end + 1);
        if (!java.util.Arrays.equals(expected, found)) {
          throw new DamagedException("the SHA-256 of its head is not the one it gives.");
        }
        return parse(lines, java.util.Arrays.copyOf(entry, end + 1), entry.length, number);
      }
      lines.add(new JsonObject((Map<?, ?>) Json.parse(text)));
      start = end + 1;
    }
  }

  private static EntryHead parse(
      List<JsonObject> lines, byte[] head, int objectLength, long number) {
    if (lines.size() < 2 || !lines.get(0).members().containsKey(MARK)) {
      throw new DamagedException("it does not start as an entry does.");
    }
    JsonObject first = lines.get(0);
    JsonObject last = lines.get(lines.size() - 1);
    if (first.number("format") > FORMAT) {
      throw new UnsupportedLakeException(
          "The lake has format %d; this program knows formats up to %d. Use a newer Ysteron."
              .formatted(first.number("format"), FORMAT));
    }
    if (first.number("number") != number || last.number("pages") != objectLength - head.length) {
      throw new DamagedException(
          "it says that it is number %d with %d bytes of pages, but it is number %d with %d."
              .formatted(
                  first.number("number"),
                  last.number("pages"),
                  number,
                  objectLength - head.length));
    }
    List<TableLine> tables = new ArrayList<>();
    lines.subList(1, lines.size() - 1).forEach(line -> tables.add(TableLine.fromJson(line)));
    return new EntryHead(
        first.uuid("lake"),
        info(first),
        first.number("start"),
        first.text("parent"),
        texts(first.list("readers must know")),
        texts(first.list("writers must know")),
        tables,
        PageRef.parse(last.text("lake page"), PageHome.entry(number, head.length)),
        labels(first),
        hex(Sha256.of(head)));
  }

  private static CommitStamp info(JsonObject first) {
    try {
      return new CommitStamp(
          first.number("number"),
          first.uuid("commit"),
          Instant.parse(first.text("time")),
          first.text("author"),
          first.text("program"),
          first.text("note"),
          first.text("statement"));
    } catch (DateTimeParseException e) {
      throw new DamagedException("its time is none.", e);
    }
  }

  private static Map<String, String> labels(JsonObject first) {
    Map<String, String> labels = new LinkedHashMap<>();
    if (first.members().containsKey(LABELS)) {
      first.object(LABELS).members().forEach((k, v) -> labels.put((String) k, (String) v));
    }
    return labels;
  }

  private static List<String> texts(List<?> list) {
    return list.stream().map(String.class::cast).toList();
  }
}
