package org.ysteron.data;

import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/** All types by name. */
public final class Types {
  public static final Type BOOLEAN = Type.Simple.BOOLEAN;
  public static final Type INTEGER = Type.Simple.INTEGER;
  public static final Type BIGINT = Type.Simple.BIGINT;
  public static final Type REAL = Type.Simple.REAL;
  public static final Type DOUBLE = Type.Simple.DOUBLE;
  public static final Type DATE = Type.Simple.DATE;
  public static final Type TIME = Type.Simple.TIME;
  public static final Type TIMESTAMP = Type.Simple.TIMESTAMP;
  public static final Type INSTANT = Type.Simple.INSTANT;
  public static final Type BINARY = Type.Simple.BINARY;
  public static final Type UUID = Type.Simple.UUID;
  public static final Type JSON = Type.Simple.JSON;

  private static final Map<Class<?>, Type> OF_JAVA =
      Map.of(
          Boolean.class, BOOLEAN,
          LocalDate.class, DATE,
          LocalTime.class, TIME,
          LocalDateTime.class, TIMESTAMP,
          Instant.class, INSTANT,
          byte[].class, BINARY,
          java.util.UUID.class, UUID);

  private Types() {}

  public static Type decimal(int precision, int scale) {
    return new Type.Decimal(precision, scale);
  }

  public static Type text() {
    return new Type.Text(OptionalInt.empty());
  }

  public static Type text(int limit) {
    return new Type.Text(OptionalInt.of(limit));
  }

  /** A list whose elements may be null. */
  public static Type listOf(Type element) {
    return new Type.ListOf(Field.of("element", element));
  }

  public static Type mapOf(Type key, Type value) {
    return new Type.MapOf(Field.of("key", key).notNull(), Field.of("value", value));
  }

  public static Type struct(Field... fields) {
    return new Type.Struct(List.of(fields));
  }

  /** The type of a value whose Java class belongs to one type only; empty for all others. */
  public static Optional<Type> ofJava(Object value) {
    for (Map.Entry<Class<?>, Type> known : OF_JAVA.entrySet()) {
      if (known.getKey().isInstance(value)) {
        return Optional.of(known.getValue());
      }
    }
    return Optional.empty();
  }

  /**
   * Parses the name of a type without nested fields, as {@code toString} of a {@link Type} writes
   * it.
   */
  public static Type parse(String text) {
    String name = text.strip().toUpperCase(Locale.ROOT);
    for (Type.Simple simple : Type.Simple.values()) {
      if (simple.toString().equals(name)) {
        return simple;
      }
    }
    try {
      if (name.startsWith("DECIMAL(") && name.endsWith(")")) {
        String[] digits = name.substring(8, name.length() - 1).split(",", 2);
        return decimal(count(digits[0]), count(digits[1]));
      }
      if (name.startsWith("VARCHAR(") && name.endsWith(")")) {
        return text(count(name.substring(8, name.length() - 1)));
      }
    } catch (NumberFormatException | ArrayIndexOutOfBoundsException e) {
      throw new InvalidInputException("There is no type " + text + ".", e);
    }
    if (name.equals("VARCHAR")) {
      return text();
    }
    throw new InvalidInputException("There is no type " + text + ".");
  }

  private static int count(String text) {
    return Integer.parseInt(Decimals.whole(text.strip()));
  }
}
