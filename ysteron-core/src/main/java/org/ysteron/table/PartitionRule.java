package org.ysteron.table;

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

/**
 * How a layout spreads rows over files by the value of one column: by range, by list or by hash.
 * Rules name columns by id; a {@link Partitioner} applies one.
 */
public sealed interface PartitionRule {

  /** The column. */
  int fieldId();

  /**
   * Ranges of equal steps: so many years, months, days, hours or minutes, counted in UTC from the
   * year 0 or from 1970; or so many units of a number, counted from 0.
   *
   * @param unit a unit of time; {@link ChronoUnit#FOREVER} stands for numbers
   */
  record Every(int fieldId, long step, ChronoUnit unit) implements PartitionRule {}

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
  }

  /** Each value by itself. */
  record EachValue(int fieldId) implements PartitionRule {}

  /**
   * Groups of values; all other values are one more group, the last.
   *
   * @param type the column's type when the rule was made, which is that of the values
   */
  record Groups(int fieldId, Type type, List<List<Object>> groups) implements PartitionRule {
    public Groups {
      groups = groups.stream().map(List::copyOf).toList();
    }
  }

  /** So many parts by a hash of the value. */
  record Hash(int fieldId, int parts) implements PartitionRule {}

  /** The same rule of another column. */
  default PartitionRule under(int id) {
    if (this instanceof Every every) {
      return new Every(id, every.step, every.unit);
    }
    if (this instanceof At at) {
      return new At(id, at.type, at.bounds);
    }
    if (this instanceof Groups groups) {
      return new Groups(id, groups.type, groups.groups);
    }
    return this instanceof Hash hash ? new Hash(id, hash.parts) : new EachValue(id);
  }

  /** As a JSON object. */
  default Map<String, Object> toJson() {
    Map<String, Object> json = new LinkedHashMap<>();
    if (this instanceof Every every) {
      json.put("range", every.fieldId);
      json.put("every", every.step);
      if (every.unit != ChronoUnit.FOREVER) {
        json.put("unit", unitName(every.unit));
      }
    } else if (this instanceof At at) {
      json.put("range", at.fieldId);
      json.put("of", at.type.toString());
      json.put("at", values(at.bounds, at.type));
    } else if (this instanceof EachValue each) {
      json.put("list", each.fieldId);
    } else if (this instanceof Groups groups) {
      json.put("list", groups.fieldId);
      json.put("of", groups.type.toString());
      json.put("groups", groups.groups.stream().map(g -> values(g, groups.type)).toList());
    } else if (this instanceof Hash hash) {
      json.put("hash", hash.fieldId);
      json.put("into", hash.parts);
    }
    return json;
  }

  private static List<Object> values(List<Object> values, Type type) {
    return values.stream().map(value -> Json.toJson(value, type)).toList();
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
      json.list("groups").forEach(group -> groups.add(readValues((List<?>) group, type)));
      return new Groups(id, type, groups);
    }
    int id = (int) json.number("range");
    if (json.has("at")) {
      Type type = Types.parse(json.text("of"));
      return new At(id, type, readValues(json.list("at"), type));
    }
    ChronoUnit unit = json.has("unit") ? unit(json.text("unit")) : ChronoUnit.FOREVER;
    if (unit == null) {
      throw new DamagedException("A layout has the unit " + json.text("unit") + ".");
    }
    return new Every(id, json.number("every"), unit);
  }

  private static List<Object> readValues(List<?> json, Type type) {
    List<Object> values = new ArrayList<>();
    json.forEach(value -> values.add(Json.fromJson(value, type)));
    return values;
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

  /** In the form that {@link LayoutPlan#rule} takes. */
  default String text(Schema schema) {
    String column = schema.field(fieldId()).map(f -> schema.pathOf(f.id())).orElse("(dropped)");
    if (this instanceof Every every) {
      boolean time = every.unit != ChronoUnit.FOREVER;
      String unit = time ? " " + unitName(every.unit) + (every.step == 1 ? "" : "s") : "";
      return "range " + column + " every " + every.step + unit;
    }
    if (this instanceof At at) {
      return "range " + column + " at " + joined(at.bounds, at.type, schema);
    }
    if (this instanceof Groups groups) {
      return "list "
          + column
          + " of "
          + String.join(
              ", ",
              groups.groups.stream()
                  .map(group -> "(" + joined(group, groups.type, schema) + ")")
                  .toList());
    }
    return this instanceof Hash hash ? "hash " + column + " into " + hash.parts : "list " + column;
  }

  /** Values as the column's type of now writes them, numbers without trailing zeros. */
  private String joined(List<Object> values, Type type, Schema schema) {
    Type now = schema.field(fieldId()).map(Field::type).orElse(type);
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
