package org.ysteron.table;

import java.util.LinkedHashMap;
import java.util.Map;
import org.ysteron.data.Values;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * An entry of the ledger, as later entries remember it.
 *
 * @param commit who, when, why
 * @param hash the entry's hash, in hexadecimal digits
 * @param page the lake page of that entry
 */
public record EntryRecord(CommitInfo commit, String hash, PageRef page) {

  /** Pages of entries by number. */
  static final class Format extends JsonFormat<EntryRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(5);
    }

    @Override
    Map<String, Object> toJson(EntryRecord value, PageHome home) {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("by", value.commit.toJson());
      json.put("hash", value.hash);
      json.put("page", value.page.toText(home));
      return json;
    }

    @Override
    EntryRecord fromJson(JsonObject json, PageHome home) {
      return new EntryRecord(
          CommitInfo.fromJson(json.object("by")),
          json.text("hash"),
          PageRef.parse(json.text("page"), home));
    }

    @Override
    long time(EntryRecord value) {
      return Values.micros(value.commit.time());
    }
  }
}
