package org.ysteron.internal.layout;

import java.math.BigDecimal;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.json.JsonObject;

/**
 * How a layout spreads rows over files by the value of one column: by range, by list or by hash.
 * Rules name columns by id; a {@link Partitioner} applies one.
 */
public sealed interface PartitionRule {

  /** The column. */
  int fieldId();

  /** The same rule of another column. */
  PartitionRule under(int id);

  /**
   * This rule for the values of a type.
   *
   * @param partId the id under which a file's ranges tell its part
   */
  Partitioner partitioner(int partId, Type columnType);

  /** As a JSON object. */
  Map<String, Object> toJson();

  /** In the form that {@link org.ysteron.option.LayoutPlan#rule} takes. */
  String text(Schema schema);

  /**
   * Ranges of equal steps: so many years, months, days, hours or minutes, counted in UTC from the
   * year 0 or from 1970; or so many units of a number, counted from 0.
   *
   * @param unit a unit of time; {@link ChronoUnit#FOREVER} stands for numbers
   */
  record Every(int fieldId, long step, ChronoUnit unit) implements PartitionRule {
    private boolean isOfTime() {
      return unit != ChronoUnit.FOREVER;
    }

    @Override
    public PartitionRule under(int id) {
      return new Every(id, step, unit);
    }

    @Override
    public Partitioner partitioner(int partId, Type columnType) {
      return new StepPartitioner(this, partId, columnType);
    }

    @Override
    public Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("range", fieldId);
      json.put("every", step);
      if (isOfTime()) {
        json.put("unit", unitName(unit));
      }
      return json;
    }

    @Override
    public String text(Schema schema) {
      String units = isOfTime() ? " " + unitName(unit) + (step == 1 ? "" : "s") : "";
      return "range " + columnName(fieldId, schema) + " every " + step + units;
    }
  }

  /**
   * Ranges between bounds; each bound begins a range.
   *
   * @param type the column's type when the rule was made, which is that of the bounds
   * @param bounds ascending
   */
  record At(int fieldId, Type type, List<Object> bounds) implements PartitionRule {
    public At {
      bounds = List.copyOf(bounds);
    }

    @Override
    public PartitionRule under(int id) {
      return new At(id, type, bounds);
    }

    @Override
    public Partitioner partitioner(int partId, Type columnType) {
      return new Partitioner.Bounds(this, partId, columnType);
    }

    @Override
    public Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("range", fieldId);
      json.put("of", type.toString());
      json.put("at", writtenValues(bounds, type));
      return json;
    }

    @Override
    public String text(Schema schema) {
      return "range %s at %s"
          .formatted(columnName(fieldId, schema), joined(bounds, fieldId, type, schema));
    }
  }

  /** Each value by itself. */
  record EachValue(int fieldId) implements PartitionRule {
    @Override
    public PartitionRule under(int id) {
      return new EachValue(id);
    }

    @Override
    public Partitioner partitioner(int partId, Type columnType) {
      return new PointPartitioner.Each(this, partId, columnType);
    }

    @Override
    public Map<String, Object> toJson() {
      return Map.of("list", fieldId);
    }

    @Override
    public String text(Schema schema) {
      return "list " + columnName(fieldId, schema);
    }
  }

  /**
   * Groups of values; all other values are one more group, the last.
   *
   * @param type the column's type when the rule was made, which is that of the values
   */
  record Groups(int fieldId, Type type, List<List<Object>> groups) implements PartitionRule {
    public Groups {
      groups = groups.stream().map(List::copyOf).toList();
    }

    @Override
    public PartitionRule under(int id) {
      return new Groups(id, type, groups);
    }

    @Override
    public Partitioner partitioner(int partId, Type columnType) {
      return new PointPartitioner.Grouped(this, partId, columnType);
    }

    @Override
    public Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("list", fieldId);
      json.put("of", type.toString());
      json.put("groups", groups.stream().map(group -> writtenValues(group, type)).toList());
      return json;
    }

    @Override
    public String text(Schema schema) {
      List<String> texts = new ArrayList<>();
      groups.forEach(group -> texts.add("(" + joined(group, fieldId, type, schema) + ")"));
      return "list " + columnName(fieldId, schema) + " of " + String.join(", ", texts);
    }
  }

  /** So many parts by a hash of the value. */
  record Hash(int fieldId, int parts) implements PartitionRule {
    @Override
    public PartitionRule under(int id) {
      return new Hash(id, parts);
    }

    @Override
    public Partitioner partitioner(int partId, Type columnType) {
      return new PointPartitioner.Hashed(this, partId, columnType);
    }

    @Override
    public Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("hash", fieldId);
      json.put("into", parts);
      return json;
    }

    @Override
    public String text(Schema schema) {
      return "hash " + columnName(fieldId, schema) + " into " + parts;
    }
  }

  /** Reads what {@link #toJson} wrote. */
  static PartitionRule fromJson(JsonObject json) {
    if (json.has("hash")) {
      return new Hash((int) json.number("hash"), (int) json.number("into"));
    }
    if (json.has("list")) {
      int id = (int) json.number("list");
      if (!json.has("groups")) {
        return new EachValue(id);
      }
      Type type = Types.parse(json.text("of"));
      List<List<Object>> groups = new ArrayList<>();
      json.list("groups").forEach(group -> groups.add(JsonObject.values((List<?>) group, type)));
      return new Groups(id, type, groups);
    }
    int id = (int) json.number("range");
    if (json.has("at")) {
      Type type = Types.parse(json.text("of"));
      return new At(id, type, json.values("at", type));
    }
    ChronoUnit unit = json.has("unit") ? unit(json.text("unit")) : ChronoUnit.FOREVER;
    if (unit == null) {
      throw new DamagedException("A layout has the unit " + json.text("unit") + ".");
    }
    return new Every(id, json.number("every"), unit);
  }

  /** The unit of a word such as {@code month} or {@code months}; null when it is none. */
  static ChronoUnit unit(String word) {
    String singular = word.toLowerCase(Locale.ROOT).replaceFirst("s$", "");
    return switch (singular) {
      case "year" -> ChronoUnit.YEARS;
      case "month" -> ChronoUnit.MONTHS;
      case "day" -> ChronoUnit.DAYS;
      case "hour" -> ChronoUnit.HOURS;
      case "minute" -> ChronoUnit.MINUTES;
      default -> null;
    };
  }

  private static String unitName(ChronoUnit unit) {
    return unit.toString().toLowerCase(Locale.ROOT).replaceFirst("s$", "");
  }

  static List<Object> writtenValues(List<Object> values, Type type) {
    return values.stream().map(value -> Json.toJson(value, type)).toList();
  }

  static String columnName(int fieldId, Schema schema) {
    return schema.field(fieldId).map(f -> schema.pathOf(f.id())).orElse("(dropped)");
  }

  /** Values as the column's type of now writes them, numbers without trailing zeros. */
  static String joined(List<Object> values, int fieldId, Type type, Schema schema) {
    Type now = schema.field(fieldId).map(Field::type).orElse(type);
    return String.join(
        ", ", values.stream().map(value -> shown(Widening.value(value, type, now))).toList());
  }

  private static String shown(Object value) {
    if (value instanceof Number number && Double.isFinite(number.doubleValue())) {
      BigDecimal exact = new BigDecimal(value.toString());
      return (exact.signum() == 0 ? BigDecimal.ZERO : exact.stripTrailingZeros()).toPlainString();
    }
    return quoted(value);
  }

  private static String quoted(Object value) {
    return Values.literal(value instanceof byte[] || value instanceof String ? value : "" + value);
  }
}
