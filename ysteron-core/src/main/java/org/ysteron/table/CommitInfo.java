package org.ysteron.table;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Values;

/**
 * Who made a commit, when and why.
 *
 * @param entry the ledger entry's number
 * @param commitId the commit's own id, by which it is known again
 * @param time when, in whole microseconds; never before the parent's time
 * @param author who
 * @param program which program
 * @param note a note for people; may be empty
 * @param statement the statement that caused it; may be empty
 */
public record CommitInfo(
    long entry,
    UUID commitId,
    Instant time,
    String author,
    String program,
    String note,
    String statement) {

  Map<String, Object> toJson() {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("entry", entry);
    json.put("commit", commitId.toString());
    json.put("micros", Values.micros(time));
    json.put("author", author);
    json.put("program", program);
    json.put("note", note);
    json.put("statement", statement);
    return json;
  }

  static CommitInfo fromJson(JsonObject json) {
    return new CommitInfo(
        json.number("entry"),
        json.uuid("commit"),
        Values.instant(json.number("micros")),
        json.text("author"),
        json.text("program"),
        json.text("note"),
        json.text("statement"));
  }
}
