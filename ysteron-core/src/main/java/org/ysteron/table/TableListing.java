package org.ysteron.table;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.UUID;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * What the lake page knows of a table.
 *
 * @param id the table
 * @param name its name
 * @param version its newest version
 * @param dropped whether it was dropped and can be brought back
 * @param totals what it holds
 * @param page its table page
 */
public record TableListing(
    UUID id,
    String name,
    long version,
    boolean dropped,
    HistoryRecord.Totals totals,
    PageRef page) {

  static TableListing of(TablePage table, boolean dropped, PageRef page) {
    return new TableListing(
        table.id(), table.name(), table.version(), dropped, table.record().totals(), page);
  }

  /** Pages of tables by id. */
  static final class Format extends JsonFormat<TableListing> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(3);
    }

    @Override
    Map<String, Object> toJson(TableListing value, PageHome home) {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("table", value.id.toString());
      json.put("name", value.name);
      json.put("version", value.version);
      json.put("dropped", value.dropped);
      json.put("files", value.totals.files());
      json.put("rows", value.totals.rows());
      json.put("bytes", value.totals.bytes());
      json.put("page", value.page.toText(home));
      return json;
    }

    @Override
    TableListing fromJson(JsonObject json, PageHome home) {
      return new TableListing(
          json.uuid("table"),
          json.text("name"),
          json.number("version"),
          json.flag("dropped"),
          new HistoryRecord.Totals(json.number("files"), json.number("rows"), json.number("bytes")),
          PageRef.parse(json.text("page"), home));
    }

    @Override
    long time(TableListing value) {
      return 0;
    }
  }

  /** Pages of table ids by name. */
  static final class NameFormat extends JsonFormat<UUID> {
    static final NameFormat INSTANCE = new NameFormat();

    private NameFormat() {
      super(4);
    }

    @Override
    Map<String, Object> toJson(UUID value, PageHome home) {
      return Map.of("table", value.toString());
    }

    @Override
    UUID fromJson(JsonObject json, PageHome home) {
      return json.uuid("table");
    }

    @Override
    long time(UUID value) {
      return 0;
    }
  }
}
