package org.ysteron.internal.table;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.TableStatistics;

/**
 * What a version's values were like, in a page of its own to which later versions refer.
 *
 * @param table the table's id
 * @param version the version that was measured
 * @param time when that was made
 * @param rows its rows
 * @param columns of the columns that were measured
 */
public record StatisticsPage(
    UUID table, long version, Instant time, long rows, List<Column> columns)
    implements JsonPage.Content {
  public StatisticsPage {
    columns = List.copyOf(columns);
  }

  /**
   * A column's values.
   *
   * @param type its type then, which is that of the values here
   */
  public record Column(
      int fieldId,
      Type type,
      long nulls,
      long distinct,
      List<Object> quantiles,
      List<TableStatistics.Frequent> frequent) {
    public Column {
      quantiles = List.copyOf(quantiles);
      frequent = List.copyOf(frequent);
    }

    private Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("column", fieldId);
      json.put("of", type.toString());
      json.put("nulls", nulls);
      json.put("distinct", distinct);
      json.put("at", quantiles.stream().map(value -> Json.toJson(value, type)).toList());
      json.put("frequent", frequent.stream().map(f -> Json.toJson(f.value(), type)).toList());
      json.put("counts", frequent.stream().map(TableStatistics.Frequent::count).toList());
      return json;
    }

    private static Column fromJson(JsonObject json) {
      Type type = Types.parse(json.text("of"));
      List<Object> values = json.values("frequent", type);
      List<?> counts = json.list("counts");
      List<TableStatistics.Frequent> frequent = new ArrayList<>();
      for (int i = 0; i < Math.min(values.size(), counts.size()); i++) {
        frequent.add(
            new TableStatistics.Frequent(values.get(i), ((Number) counts.get(i)).longValue()));
      }
      return new Column(
          (int) json.number("column"),
          type,
          json.number("nulls"),
          json.number("distinct"),
          json.values("at", type),
          frequent);
    }
  }

  /** What is told of the columns that a schema still has. */
  public TableStatistics told(Schema schema) {
    return new TableStatistics(
        version,
        time,
        rows,
        columns.stream()
            .filter(column -> schema.field(column.fieldId).isPresent())
            .map(
                column ->
                    new TableStatistics.Column(
                        schema.pathOf(column.fieldId),
                        column.nulls,
                        column.distinct,
                        column.quantiles,
                        column.frequent))
            .toList());
  }

  PageRef write(PageBatch batch) {
    return JsonPage.write(this, StatisticsPage::parse, batch);
  }

  static StatisticsPage read(PageRef ref, PageStore pages) {
    return JsonPage.read(ref, pages, StatisticsPage.class, StatisticsPage::parse);
  }

  private static StatisticsPage parse(JsonPage page) {
    JsonObject json = page.json("statistics");
    return new StatisticsPage(
        json.uuid("table"),
        json.number("version"),
        Values.instant(json.number("time")),
        json.number("rows"),
        json.objects("columns").stream().map(Column::fromJson).toList());
  }

  @Override
  public Map<String, Object> toJson(PagePlace place) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "statistics");
    json.put("table", table.toString());
    json.put("version", version);
    json.put("time", Values.micros(time));
    json.put("rows", rows);
    json.put("columns", columns.stream().map(Column::toJson).toList());
    return json;
  }
}
