package org.ysteron.internal.rows;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.error.InvalidInputException;

/**
 * Records, JSON objects and rows of texts as rows of a struct. What does not fit stays as it is,
 * for who takes the row to say so. For one thread.
 */
public final class RowForms {
  private final Type.Struct struct;
  private final Map<Class<?>, RecordBinding<?>> bindings = new HashMap<>();

  /** For rows of a struct. */
  public RowForms(Type.Struct struct) {
    this.struct = struct;
  }

  /** The values of a record, in the order of the fields. */
  public Object[] values(Record record) {
    return bindings
        .computeIfAbsent(
            record.getClass(), type -> RecordBinding.forWriting(record.getClass(), struct))
        .values(record);
  }

  /** A row of the components of a record. */
  public Row row(Record record) {
    return bindings
        .computeIfAbsent(
            record.getClass(), type -> RecordBinding.forReading(record.getClass(), struct))
        .row(record);
  }

  /** A row of the members of a parsed JSON object. */
  public Row row(Map<String, Object> members) {
    List<Field> fields = new ArrayList<>();
    List<Object> values = new ArrayList<>();
    members.forEach(
        (name, value) -> {
          Field field = field(name);
          fields.add(field);
          values.add(
              value == null ? null : parsed(value, () -> Json.fromJson(value, field.type())));
        });
    return Row.of(new Type.Struct(fields), values.toArray());
  }

  /** A row of texts. */
  public Row row(TextRow row) {
    List<Field> fields = new ArrayList<>();
    Object[] values = new Object[row.values().length];
    for (int i = 0; i < values.length; i++) {
      Field field = field(row.names().get(i));
      String text = row.values()[i];
      fields.add(field);
      values[i] = text == null ? null : parsed(text, () -> ValueText.parse(text, field.type()));
    }
    return Row.of(new Type.Struct(fields), values);
  }

  private Field field(String name) {
    int at = struct.indexOf(name);
    return at < 0 ? Field.of(name, Types.text()) : struct.fields().get(at);
  }

  private interface Parsing {
    Object value();
  }

  private static Object parsed(Object given, Parsing parsing) {
    try {
      return parsing.value();
    } catch (InvalidInputException e) {
      return given;
    }
  }
}
