package org.ysteron.internal.json;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Formula;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;

/** Schemas as JSON, the form in which version pages and data files carry them. */
public final class SchemaJson {
  private static final String COMPUTED = "computed default";

  private SchemaJson() {}

  /** A schema as a JSON object. */
  public static Map<String, Object> toJson(Schema schema) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("columns", fields(schema.columns()));
    json.put("key", schema.keyIds());
    json.put("last id", schema.lastId());
    return json;
  }

  private static List<Object> fields(List<Field> fields) {
    List<Object> list = new ArrayList<>();
    fields.forEach(field -> list.add(field(field)));
    return list;
  }

  private static Map<String, Object> field(Field field) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("id", field.id());
    json.put("name", field.name());
    json.put("type", type(field.type()));
    if (field.required()) {
      json.put("not null", true);
    }
    field.writeDefault().ifPresent(v -> json.put("default", Json.toJson(v, field.type())));
    field.computedDefault().ifPresent(formula -> json.put(COMPUTED, computed(formula)));
    field.addedDefault().ifPresent(v -> json.put("old rows", Json.toJson(v, field.type())));
    if (!field.comment().isEmpty()) {
      json.put("comment", field.comment());
    }
    return json;
  }

  private static Map<String, Object> computed(Formula formula) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("text", formula.toString());
    json.put(
        "expression",
        formula instanceof Condition.Unknown unknown
            ? unknown.json()
            : ExpressionJson.toJson((Expression) formula, Schema.NO_COLUMNS));
    return json;
  }

  /** Reads a formula; of one whose form is not known the text is kept, which nobody can compute. */
  private static Formula readComputed(Map<?, ?> json) {
    try {
      return ExpressionJson.fromJson(json.get("expression"), Schema.NO_COLUMNS);
    } catch (YsteronException e) {
      return new Condition.Unknown((String) json.get("text"), (Map<?, ?>) json.get("expression"));
    }
  }

  private static Object type(Type type) {
    if (type instanceof Type.ListOf list) {
      return Map.of("list", field(list.element()));
    }
    if (type instanceof Type.MapOf map) {
      return Map.of("map", List.of(field(map.key()), field(map.value())));
    }
    if (type instanceof Type.Struct struct) {
      return Map.of("row", fields(struct.fields()));
    }
    return type.toString();
  }

  /** Reads what {@link #toJson} wrote. */
  public static Schema fromJson(Map<?, ?> json) {
    List<Integer> key = new ArrayList<>();
    ((List<?>) json.get("key")).forEach(id -> key.add((Integer) id));
    return Schema.stored(readFields(json.get("columns")), key, (Integer) json.get("last id"));
  }

  private static List<Field> readFields(Object json) {
    List<Field> fields = new ArrayList<>();
    ((List<?>) json).forEach(field -> fields.add(readField(field)));
    return fields;
  }

  private static Field readField(Object json) {
    Map<?, ?> object = (Map<?, ?>) json;
    Type type = readType(object.get("type"));
    return new Field(
        (Integer) object.get("id"),
        (String) object.get("name"),
        type,
        Boolean.TRUE.equals(object.get("not null")),
        readValue(object.get("default"), type),
        Optional.ofNullable((Map<?, ?>) object.get(COMPUTED)).map(SchemaJson::readComputed),
        readValue(object.get("old rows"), type),
        object.containsKey("comment") ? (String) object.get("comment") : "");
  }

  private static Optional<Object> readValue(Object json, Type type) {
    return Optional.ofNullable(json).map(value -> Json.fromJson(value, type));
  }

  private static Type readType(Object json) {
    if (json instanceof String name) {
      return Types.parse(name);
    }
    Map<?, ?> object = (Map<?, ?>) json;
    if (object.containsKey("list")) {
      return new Type.ListOf(readField(object.get("list")));
    }
    if (object.containsKey("map")) {
      List<?> pair = (List<?>) object.get("map");
      return new Type.MapOf(readField(pair.get(0)), readField(pair.get(1)));
    }
    return new Type.Struct(readFields(object.get("row")));
  }
}
