package org.ysteron.internal.layout;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.IntUnaryOperator;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.option.LayoutPlan;

/**
 * How rows are spread over files: partition rules, by which rows of different parts go to different
 * files, and the order of the rows within a file. All of it is derived from the rows' own columns.
 * Columns are named by id, so that a layout outlives their names.
 *
 * @param rules at most {@link #MOST_RULES}
 * @param sort the sort columns, the first first
 */
public record Layout(List<PartitionRule> rules, List<SortColumn> sort, Optional<Curve> curve) {
  public static final int MOST_RULES = 8;

  /** From here on ids are those of parts. */
  private static final int FIRST_PART = 2_000_000_000;

  /** All rows together, in the order in which they come. */
  public static final Layout NONE = new Layout(List.of(), List.of(), Optional.empty());

  /** A column by which the rows of a file are ordered; nulls are last. */
  public record SortColumn(int fieldId, boolean descending) {}

  public Layout {
    rules = List.copyOf(rules);
    sort = List.copyOf(sort);
  }

  /** The id under which a file's ranges tell its part by a rule of a layout. */
  public static int partId(long layoutVersion, int rule) {
    return (int) (FIRST_PART + layoutVersion * MOST_RULES + rule);
  }

  /** Whether an id is that of a part. */
  public static boolean isPart(int id) {
    return id >= FIRST_PART;
  }

  /** The id that a part has under another version of its layout. */
  public static int partUnder(int id, long layoutVersion) {
    return partId(layoutVersion, (id - FIRST_PART) % MOST_RULES);
  }

  /** Whether an id is that of a part, or of anything else that is no column. */
  public static boolean isReserved(int id) {
    return id >= HiddenColumns.FIRST_ID;
  }

  /** The columns that it needs. */
  public Set<Integer> fieldIds() {
    Set<Integer> ids = new LinkedHashSet<>();
    rules.forEach(rule -> ids.add(rule.fieldId()));
    sort.forEach(column -> ids.add(column.fieldId()));
    curve.ifPresent(along -> along.axes().forEach(axis -> ids.add(axis.fieldId())));
    return ids;
  }

  /** Whether it says in which order the rows of a file are. */
  public boolean hasOrder() {
    return !sort.isEmpty() || curve.isPresent();
  }

  /** Its rules applied to a schema; a rule whose column is gone is left out. */
  public List<Partitioner> partitioners(long layoutVersion, Schema schema) {
    List<Partitioner> partitioners = new ArrayList<>();
    for (int i = 0; i < rules.size(); i++) {
      PartitionRule rule = rules.get(i);
      int id = partId(layoutVersion, i);
      schema
          .field(rule.fieldId())
          .map(Field::type)
          .ifPresent(type -> partitioners.add(rule.partitioner(id, type)));
    }
    return partitioners;
  }

  /** The same by other ids of its columns. */
  public Layout under(IntUnaryOperator ids) {
    return new Layout(
        rules.stream().map(rule -> rule.under(ids.applyAsInt(rule.fieldId()))).toList(),
        sort.stream().map(c -> new SortColumn(ids.applyAsInt(c.fieldId), c.descending)).toList(),
        curve.map(along -> along.under(ids)));
  }

  public Map<String, Object> toJson() {
    Map<String, Object> json = new LinkedHashMap<>();
    if (!rules.isEmpty()) {
      json.put("rules", rules.stream().map(PartitionRule::toJson).toList());
    }
    if (!sort.isEmpty()) {
      List<Object> columns = new ArrayList<>();
      for (SortColumn column : sort) {
        Map<String, Object> one = new LinkedHashMap<>();
        one.put("column", column.fieldId);
        if (column.descending) {
          one.put("descending", true);
        }
        columns.add(one);
      }
      json.put("sort", columns);
    }
    curve.ifPresent(
        along -> json.put("curve", along.axes().stream().map(Curve.Axis::toJson).toList()));
    return json;
  }

  public static Layout fromJson(JsonObject json) {
    List<PartitionRule> rules = new ArrayList<>();
    List<SortColumn> sort = new ArrayList<>();
    if (json.has("rules")) {
      json.objects("rules").forEach(rule -> rules.add(PartitionRule.fromJson(rule)));
    }
    if (json.has("sort")) {
      for (JsonObject column : json.objects("sort")) {
        sort.add(
            new SortColumn(
                (int) column.number("column"),
                column.has("descending") && column.flag("descending")));
      }
    }
    Optional<Curve> curve =
        json.has("curve") ? Optional.of(Curve.fromJson(json.objects("curve"))) : Optional.empty();
    return new Layout(rules, sort, curve);
  }

  /** The plan that means this layout, by the names of a schema. */
  public LayoutPlan plan(Schema schema) {
    LayoutPlan plan = LayoutPlan.none();
    for (PartitionRule rule : rules) {
      plan = plan.rule(rule.text(schema));
    }
    if (curve.isPresent()) {
      return plan.along(
          curve.get().axes().stream().map(axis -> axis.text(schema)).toArray(String[]::new));
    }
    return plan.sortedBy(
        sort.stream()
            .map(
                column ->
                    schema.field(column.fieldId).map(f -> schema.pathOf(f.id())).orElse("(dropped)")
                        + (column.descending ? " descending" : ""))
            .toArray(String[]::new));
  }

  /** For people, such as {@code range taken_at every 1 day; hash gauge_id into 8}. */
  public String text(Schema schema) {
    return plan(schema).toString();
  }
}
