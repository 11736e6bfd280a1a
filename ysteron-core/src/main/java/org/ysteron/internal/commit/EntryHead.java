package org.ysteron.internal.commit;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.text.Reason;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

/**
 * The lines of a ledger entry: JSON for people. {@code docs/format.md} gives them. What a program
 * must know to read on is judged from the first line alone.
 *
 * @param lakeId the lake
 * @param number the entry's number
 * @param time the time of all its commits
 * @param start the entry from which the writer started
 * @param parent the hash of the entry before, empty for entry 0
 * @param mustRead features that a reader must know
 * @param mustWrite features that a writer must know
 * @param commits the commits, in their order
 * @param page the lake page after the last of them
 * @param sum hash and length of the lines
 */
record EntryHead(
    UUID lakeId,
    long number,
    Instant time,
    long start,
    String parent,
    List<String> mustRead,
    List<String> mustWrite,
    List<CommitLines> commits,
    PageRef page,
    Sum sum) {

  static final int FORMAT = 1;

  private static final String MARK = "ysteron";
  static final String COMMIT = "commit";
  static final String TABLE = "table";
  static final String PAGES = "pages";
  private static final String MASKED = "files masked";
  static final String LABELS = "labels";
  static final String READERS = "readers must know";
  static final String WRITERS = "writers must know";

  /** How many bytes the lines may have. */
  static final int LONGEST = 1 << 24;

  private static final String END = "{\"head\":";

  /**
   * What proves the lines.
   *
   * @param hash the entry's hash, in hexadecimal digits
   * @param length how many bytes
   */
  record Sum(String hash, int length) {
    static final Sum NONE = new Sum("", 0);
  }

  /**
   * One commit.
   *
   * @param stamp who, when, why
   * @param labels names and values of the writer's own
   * @param tables what it did to each table
   */
  record CommitLines(CommitStamp stamp, Map<String, String> labels, List<TableLine> tables) {
    CommitLines {
      labels = new TreeMap<>(labels);
      tables = List.copyOf(tables);
    }

    private Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put(COMMIT, stamp.commitId().toString());
      json.put("author", stamp.author());
      json.put("program", stamp.program());
      json.put("note", stamp.note());
      json.put("statement", stamp.statement());
      json.put(LABELS, labels);
      return json;
    }
  }

  /** What a commit did to a table, for people. */
  record TableLine(
      String name, UUID id, long version, String operation, TableVersion.Counts counts) {
    private Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put(TABLE, name);
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

    static TableLine fromJson(JsonObject json) {
      return new TableLine(
          json.text(TABLE),
          json.uuid("id"),
          json.number("version"),
          json.text("operation"),
          new TableVersion.Counts(
              json.number("files added"),
              json.number("rows added"),
              json.number("files removed"),
              json.number("rows removed"),
              json.has(MASKED) ? json.number(MASKED) : 0));
    }
  }

  /** Whether no version of any table was made. */
  boolean isQuiet() {
    return commits.stream().allMatch(commit -> commit.tables().isEmpty());
  }

  /** The commits' stamps. */
  List<CommitStamp> stamps() {
    return commits.stream().map(CommitLines::stamp).toList();
  }

  /** These lines as they were written. */
  EntryHead with(Sum written) {
    return new EntryHead(
        lakeId, number, time, start, parent, mustRead, mustWrite, commits, page, written);
  }

  /**
   * The bytes of the lines; {@link #sum} is not looked at.
   *
   * @param pageBytes how many bytes of pages follow
   * @param end the end of the object
   */
  byte[] encode(long pageBytes, PagePlace end) {
    Map<String, Object> first = new LinkedHashMap<>();
    first.put(MARK, "entry");
    first.put("format", FORMAT);
    first.put(READERS, mustRead);
    first.put(WRITERS, mustWrite);
    first.put("lake", lakeId.toString());
    first.put("number", number);
    first.put("parent", parent);
    first.put("time", time.toString());
    first.put("first commit", commits.get(0).stamp().ordinal());
    first.put("start", start);
    ByteOut head = new ByteOut();
    line(head, first);
    for (CommitLines commit : commits) {
      line(head, commit.toJson());
      commit.tables.forEach(table -> line(head, table.toJson()));
    }
    Map<String, Object> last = new LinkedHashMap<>();
    last.put(PAGES, pageBytes);
    last.put("lake page", page.toText(end));
    line(head, last);
    head.raw(endLine(head.toByteArray()));
    if (head.size() > LONGEST) {
      throw new InvalidInputException(
          "The head of the commit takes %d bytes; the limit is %d. Nothing was changed; shorten its note, statement and labels, or change fewer tables at once."
              .formatted(head.size(), LONGEST));
    }
    return head.toByteArray();
  }

  private static void line(ByteOut out, Map<String, Object> json) {
    out.raw(Json.write(json).getBytes(StandardCharsets.UTF_8)).u8('\n');
  }

  private static byte[] endLine(byte[] before) {
    return ("{\"head\":\"" + hex(Sha256.of(before)) + "\"}\n").getBytes(StandardCharsets.UTF_8);
  }

  static String hex(byte[] bytes) {
    return HexFormat.of().formatHex(bytes);
  }

  /**
   * Reads and checks the lines; the pages behind them are checked when they are read.
   *
   * @param name the object's name, for messages
   * @param known the features that this program knows
   * @throws UnsupportedLakeException when the first line says that a newer program wrote it
   */
  static EntryHead parse(Ledger.Start entry, long number, String name, Set<String> known) {
    try {
      return parse(entry.bytes(), entry.size(), number, known);
    } catch (UnsupportedLakeException e) {
      throw e;
    } catch (RuntimeException e) {
      throw DamagedException.of(
          name,
          "Ledger entry %s is damaged: %s Restore it from a copy of the lake."
              .formatted(name, Reason.of(e)),
          e);
    }
  }

  /** Whether the lines are there to their end. */
  static boolean isWhole(byte[] start) {
    int line = 0;
    for (int i = 0; i < start.length; i++) {
      if (start[i] == '\n') {
        if (new String(start, line, i - line, StandardCharsets.UTF_8).startsWith(END)) {
          return true;
        }
        line = i + 1;
      }
    }
    return false;
  }

  private static EntryHead parse(byte[] entry, long size, long number, Set<String> known) {
    int end = endOfLine(entry, 0);
    JsonObject first = line(entry, 0, end);
    judge(first, known);
    List<JsonObject> lines = new ArrayList<>();
    while (true) {
      int start = end + 1;
      end = endOfLine(entry, start);
      String text = new String(entry, start, end - start, StandardCharsets.UTF_8);
      if (text.startsWith(END)) {
        byte[] expected = endLine(Arrays.copyOf(entry, start));
        if (!Arrays.equals(expected, Arrays.copyOfRange(entry, start, end + 1))) {
          throw new DamagedException("its head has another SHA-256 than it states.");
        }
        Sum sum = new Sum(hex(Sha256.of(Arrays.copyOf(entry, end + 1))), end + 1);
        return new EntryHeadParser(first, number, size).parse(lines, sum);
      }
      lines.add(line(entry, start, end));
    }
  }

  private static int endOfLine(byte[] entry, int start) {
    int end = start;
    while (end < entry.length && entry[end] != '\n' && end < LONGEST) {
      end++;
    }
    if (end == entry.length || end >= LONGEST) {
      throw new DamagedException("its head has no end.");
    }
    return end;
  }

  private static JsonObject line(byte[] entry, int start, int end) {
    return new JsonObject(
        (Map<?, ?>) Json.parse(new String(entry, start, end - start, StandardCharsets.UTF_8)));
  }

  /** Whether what follows the first line can be understood. */
  private static void judge(JsonObject first, Set<String> known) {
    if (!first.has(MARK)) {
      throw new DamagedException("it does not start like a ledger entry.");
    }
    if (first.number("format") > FORMAT) {
      throw new UnsupportedLakeException(
          "The lake has format %d; this program knows formats up to %d. Use a newer Ysteron."
              .formatted(first.number("format"), FORMAT));
    }
    for (String feature : texts(first, READERS)) {
      if (!known.contains(feature)) {
        throw new UnsupportedLakeException(
            feature,
            "Reading this lake needs the feature \"%s\", which this program does not know. Use a newer Ysteron."
                .formatted(feature));
      }
    }
  }

  static List<String> texts(JsonObject json, String name) {
    return json.list(name).stream().map(String.class::cast).toList();
  }
}
