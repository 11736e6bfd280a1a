package org.ysteron;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;

/**
 * A table in plain maps, whose rows know nothing of schemas: values are under the ids that their
 * fields had when they were written. A schema is only asked when a row is read.
 */
final class EvolvingModel {
  /** What rows older than a field have, by id, as it was when the field was added. */
  private final Map<Integer, Object> added = new HashMap<>();

  private final Map<Integer, Map<Integer, Object>> rows = new TreeMap<>();

  EvolvingModel copy() {
    EvolvingModel copy = new EvolvingModel();
    copy.added.putAll(added);
    copy.rows.putAll(rows);
    return copy;
  }

  Map<Integer, Map<Integer, Object>> rows() {
    return rows;
  }

  /** The defaults that later schemas brought count for older rows, too. */
  void learn(EvolvingModel later) {
    added.putAll(later.added);
  }

  void added(int id, Optional<Object> value, Type type) {
    added.put(id, value.map(v -> held(v, type)).orElse(null));
  }

  void put(int key, Schema schema, Object[] values) {
    Map<Integer, Object> row = new HashMap<>();
    for (int i = 0; i < values.length; i++) {
      Field field = schema.columns().get(i);
      row.put(field.id(), held(values[i], field.type()));
    }
    rows.put(key, row);
  }

  /** Gives a column of a row another value; what the row lacks of the others is as it was read. */
  void set(int key, Schema schema, Field field, Object value) {
    Map<Integer, Object> row = new HashMap<>(rows.get(key));
    for (Field column : schema.columns()) {
      if (!row.containsKey(column.id())) {
        row.put(column.id(), added.get(column.id()));
      }
    }
    row.put(field.id(), held(value, field.type()));
    rows.put(key, row);
  }

  private static Object held(Object value, Type type) {
    if (value == null) {
      return null;
    }
    if (type instanceof Type.Struct struct) {
      Map<Integer, Object> inner = new HashMap<>();
      for (Field field : struct.fields()) {
        inner.put(field.id(), held(((Row) value).get(field.name()), field.type()));
      }
      return inner;
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      ((List<?>) value).forEach(each -> elements.add(held(each, list.element().type())));
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      ((Map<?, ?>) value).forEach((k, v) -> entries.put(k, held(v, map.value().type())));
      return entries;
    }
    return plain(value);
  }

  /** A value of which it cannot be told how wide its column is. */
  static Object plain(Object value) {
    if (value instanceof Float || value instanceof Double) {
      double number = ((Number) value).doubleValue();
      return Double.isFinite(number) ? (Object) new BigDecimal(number).stripTrailingZeros() : "NaN";
    }
    if (value instanceof Number) {
      return new BigDecimal(value.toString()).stripTrailingZeros();
    }
    if (value instanceof LocalDate date) {
      return date.atStartOfDay();
    }
    return value instanceof byte[] bytes ? java.util.Arrays.toString(bytes) : value;
  }

  /** What a row is when it is read by a schema: values by path. */
  Map<String, Object> read(int key, Schema schema) {
    Map<String, Object> values = new TreeMap<>();
    for (Field field : schema.columns()) {
      values.put(field.name(), read(rows.get(key), field));
    }
    return values;
  }

  private Object read(Map<?, ?> row, Field field) {
    boolean has = row.containsKey(field.id());
    return shaped(has ? row.get(field.id()) : added.get(field.id()), field.type());
  }

  private Object shaped(Object value, Type type) {
    if (value == null) {
      return null;
    }
    if (type instanceof Type.Struct struct) {
      Map<String, Object> inner = new TreeMap<>();
      for (Field field : struct.fields()) {
        inner.put(field.name(), read((Map<?, ?>) value, field));
      }
      return inner;
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      ((List<?>) value).forEach(each -> elements.add(shaped(each, list.element().type())));
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      ((Map<?, ?>) value).forEach((k, v) -> entries.put(k, shaped(v, map.value().type())));
      return entries;
    }
    return value;
  }

  /** A row that was read from the table, in the same form. */
  static Map<String, Object> told(Row row) {
    Map<String, Object> values = new TreeMap<>();
    for (Field field : row.fields()) {
      values.put(field.name(), told(row.get(field.name())));
    }
    return values;
  }

  private static Object told(Object value) {
    if (value instanceof Row inner) {
      return told(inner);
    }
    if (value instanceof List<?> list) {
      return new ArrayList<>(list.stream().map(EvolvingModel::told).toList());
    }
    if (value instanceof Map<?, ?> map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      map.forEach((k, v) -> entries.put(k, told(v)));
      return entries;
    }
    return value == null ? null : plain(value);
  }
}
