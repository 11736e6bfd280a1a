package org.ysteron.data;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.text.NearNames;

/** Values by position and by name: a row of a table or the value of a struct. */
public abstract class Row {

  /** The fields, in the order of the positions. */
  public abstract List<Field> fields();

  /** The value at a position, of its type's Java class, or null. */
  public abstract @Nullable Object get(int position);

  /** A row of given values. */
  public static Row of(Type.Struct type, @Nullable Object... values) {
    if (type.fields().size() != values.length) {
      throw new InvalidInputException(
          "A row of %d values was made for %d fields."
              .formatted(values.length, type.fields().size()));
    }
    Object[] copy = values.clone();
    return new Row() {
      @Override
      public List<Field> fields() {
        return type.fields();
      }

      @Override
      public @Nullable Object get(int position) {
        return copy[checked(position, copy.length)];
      }
    };
  }

  static int checked(int position, int columns) {
    if (position < 0 || position >= columns) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          String.valueOf(position),
          "The row has no column at position %d: it has %d columns, counted from 0."
              .formatted(position, columns));
    }
    return position;
  }

  /** The value of a field of this row by name. */
  public @Nullable Object get(String name) {
    return get(position(name));
  }

  private int position(String name) {
    List<Field> fields = fields();
    for (int i = 0; i < fields.size(); i++) {
      if (fields.get(i).name().equals(name)) {
        return i;
      }
    }
    throw new NotFoundException(
        NotFoundException.Kind.COLUMN,
        name,
        "The row has no column %s.%s"
            .formatted(
                name, NearNames.didYouMean(name, fields.stream().map(Field::name).toList())));
  }

  /** Whether the value of a field is null. */
  public boolean isNull(String name) {
    return get(name) == null;
  }

  /** A text or JSON, or null. */
  public @Nullable String getString(String name) {
    return as(String.class, name);
  }

  /** A decimal, or null. */
  public @Nullable BigDecimal getDecimal(String name) {
    return as(BigDecimal.class, name);
  }

  /** A DATE, or null. */
  public @Nullable LocalDate getDate(String name) {
    return as(LocalDate.class, name);
  }

  /** A TIME, or null. */
  public @Nullable LocalTime getTime(String name) {
    return as(LocalTime.class, name);
  }

  /** A TIMESTAMP, or null. */
  public @Nullable LocalDateTime getTimestamp(String name) {
    return as(LocalDateTime.class, name);
  }

  /** A TIMESTAMP WITH TIME ZONE, or null. */
  public @Nullable Instant getInstant(String name) {
    return as(Instant.class, name);
  }

  /** A BINARY, or null. */
  public byte @Nullable [] getBytes(String name) {
    return as(byte[].class, name);
  }

  /** A UUID, or null. */
  public @Nullable UUID getUuid(String name) {
    return as(UUID.class, name);
  }

  /** A struct, or null. */
  public @Nullable Row getRow(String name) {
    return as(Row.class, name);
  }

  /** A list, or null. */
  public @Nullable List<?> getList(String name) {
    return as(List.class, name);
  }

  /** A map, or null. */
  public @Nullable Map<?, ?> getMap(String name) {
    return as(Map.class, name);
  }

  /**
   * A BOOLEAN.
   *
   * @throws InvalidInputException when it is null
   */
  public boolean getBoolean(String name) {
    return notNull(as(Boolean.class, name), name);
  }

  /**
   * An INTEGER.
   *
   * @throws InvalidInputException when it is null
   */
  public int getInt(String name) {
    return notNull(as(Integer.class, name), name);
  }

  /**
   * A BIGINT or an INTEGER.
   *
   * @throws InvalidInputException when it is null
   */
  public long getLong(String name) {
    return get(name) instanceof Integer number ? number : notNull(as(Long.class, name), name);
  }

  /**
   * A DOUBLE PRECISION, a REAL or an INTEGER.
   *
   * @throws InvalidInputException when it is null
   */
  public double getDouble(String name) {
    Object value = get(name);
    return value instanceof Float || value instanceof Integer
        ? ((Number) value).doubleValue()
        : notNull(as(Double.class, name), name);
  }

  private <T> @Nullable T as(Class<T> wanted, String name) {
    int position = position(name);
    Object value = get(position);
    if (value != null && !wanted.isInstance(value)) {
      throw InvalidInputException.ofColumn(
          name,
          "Column %s is %s, and its values are not of class %s. Use another getter."
              .formatted(name, fields().get(position).type(), wanted.getSimpleName()));
    }
    return wanted.cast(value);
  }

  private static <T> T notNull(@Nullable T value, String name) {
    if (value == null) {
      throw InvalidInputException.ofColumn(
          name, "Column %s is null in this row. Call isNull first.".formatted(name));
    }
    return value;
  }

  /** All values in order. */
  public @Nullable Object[] values() {
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
