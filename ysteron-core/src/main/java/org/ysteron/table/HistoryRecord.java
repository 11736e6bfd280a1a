package org.ysteron.table;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Values;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * One version of a table.
 *
 * @param version its number
 * @param commit the commit that made it
 * @param operation what was done: {@code create}, {@code append}, …
 * @param counts files and rows added and removed
 * @param totals what the table holds after it
 * @param schemaVersion the schema's version
 * @param page the table page of this version; empty in that page itself
 */
public record HistoryRecord(
    long version,
    CommitInfo commit,
    String operation,
    Counts counts,
    Totals totals,
    long schemaVersion,
    Optional<PageRef> page) {

  /** What a commit did to a table. */
  public record Counts(long filesAdded, long rowsAdded, long filesRemoved, long rowsRemoved) {
    public static final Counts NOTHING = new Counts(0, 0, 0, 0);
  }

  /** What a table holds. */
  public record Totals(long files, long rows, long bytes) {
    public static final Totals NOTHING = new Totals(0, 0, 0);

    /** These and one more file. */
    public Totals plus(long moreFiles, long moreRows, long moreBytes) {
      return new Totals(files + moreFiles, rows + moreRows, bytes + moreBytes);
    }
  }

  HistoryRecord at(PageRef ref) {
    return new HistoryRecord(
        version, commit, operation, counts, totals, schemaVersion, Optional.of(ref));
  }

  Map<String, Object> toJson(PageHome home) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("version", version);
    json.put("by", commit.toJson());
    json.put("operation", operation);
    json.put("files added", counts.filesAdded);
    json.put("rows added", counts.rowsAdded);
    json.put("files removed", counts.filesRemoved);
    json.put("rows removed", counts.rowsRemoved);
    json.put("files", totals.files);
    json.put("rows", totals.rows);
    json.put("bytes", totals.bytes);
    json.put("schema version", schemaVersion);
    page.ifPresent(ref -> json.put("page", ref.toText(home)));
    return json;
  }

  static HistoryRecord fromJson(JsonObject json, PageHome home) {
    return new HistoryRecord(
        json.number("version"),
        CommitInfo.fromJson(json.object("by")),
        json.text("operation"),
        new Counts(
            json.number("files added"),
            json.number("rows added"),
            json.number("files removed"),
            json.number("rows removed")),
        new Totals(json.number("files"), json.number("rows"), json.number("bytes")),
        json.number("schema version"),
        json.optionalText("page").map(text -> PageRef.parse(text, home)));
  }

  /** Pages of a table's history, by version. */
  static final class Format extends JsonFormat<HistoryRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(2);
    }

    @Override
    Map<String, Object> toJson(HistoryRecord value, PageHome home) {
      return value.toJson(home);
    }

    @Override
    HistoryRecord fromJson(JsonObject json, PageHome home) {
      return HistoryRecord.fromJson(json, home);
    }

    @Override
    long time(HistoryRecord value) {
      return Values.micros(value.commit().time());
    }
  }
}
