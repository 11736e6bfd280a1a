package org.ysteron.data;

import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import org.ysteron.error.NotFoundException;

/** Values by position and by name: a row of a table or the value of a struct. */
public abstract class Row {

  /** The fields, in the order of the positions. */
  public abstract List<Field> fields();

  /** The value at a position, of its type's Java class, or null. */
  public abstract Object get(int position);

  /** A row of given values. */
  public static Row of(Type.Struct type, Object... values) {
    if (type.fields().size() != values.length) {
      throw new IllegalArgumentException(
          "%d values for %d fields".formatted(values.length, type.fields().size()));
    }
    Object[] copy = values.clone();
    return new Row() {
      @Override
      public List<Field> fields() {
        return type.fields();
      }

      @Override
      public Object get(int position) {
        return copy[position];
      }
    };
  }

  /** The value of a field of this row by name. */
  public Object get(String name) {
    for (int i = 0; i < fields().size(); i++) {
      if (fields().get(i).name().equals(name)) {
        return get(i);
      }
    }
    throw new NotFoundException(
        "The row has no column %s.%s"
            .formatted(name, Names.didYouMean(name, fields().stream().map(Field::name).toList())));
  }

  /** All values in order. */
  public Object[] values() {
    Object[] values = new Object[fields().size()];
    for (int i = 0; i < values.length; i++) {
      values[i] = get(i);
    }
    return values;
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof Row row
        && fields().stream()
            .map(Field::name)
            .toList()
            .equals(row.fields().stream().map(Field::name).toList())
        && Arrays.deepEquals(values(), row.values());
  }

  @Override
  public int hashCode() {
    return Arrays.deepHashCode(values());
  }

  @Override
  public String toString() {
    StringBuilder text = new StringBuilder("{");
    for (int i = 0; i < fields().size(); i++) {
      text.append(i > 0 ? ", " : "").append(fields().get(i).name()).append('=');
      Object value = get(i);
      text.append(value instanceof byte[] bytes ? Arrays.toString(bytes) : Objects.toString(value));
    }
    return text.append('}').toString();
  }
}
