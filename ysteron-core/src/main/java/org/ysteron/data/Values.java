package org.ysteron.data;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.text.Visible;
import org.ysteron.internal.text.WithArticle;

/** Checks values against types and converts them to and from the form in vectors. */
public final class Values {
  private static final int LONGEST_SHOWN = 60;
  private static final int LONG_DECIMAL_BYTES = 16;
  private static final long MICROS_A_DAY = 86_400_000_000L;

  private Values() {}

  /**
   * Checks that a value fits a type and returns it in the type's own form (for example a decimal
   * with the type's scale). A number can be of any Java number class if the type can hold its exact
   * value.
   *
   * @param value not null
   * @throws InvalidInputException saying what does not fit; without the column's name
   */
  public static Object accept(Object value, Type type) {
    if (type instanceof Type.Simple simple) {
      return acceptSimple(value, simple);
    }
    if (type instanceof Type.Decimal decimal) {
      return acceptDecimal(number(BigDecimal.class, value, type), decimal);
    }
    if (type instanceof Type.Text text) {
      return acceptText(expect(String.class, value, type), text);
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      for (Object element : expect(List.class, value, type)) {
        elements.add(acceptField(element, list.element()));
      }
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      for (Object entry : expect(Map.class, value, type).entrySet()) {
        Map.Entry<?, ?> pair = (Map.Entry<?, ?>) entry;
        entries.put(
            acceptField(pair.getKey(), map.key()), acceptField(pair.getValue(), map.value()));
      }
      return entries;
    }
    Type.Struct struct = (Type.Struct) type;
    Row row = expect(Row.class, value, type);
    Object[] fields = new Object[struct.fields().size()];
    for (int i = 0; i < fields.length; i++) {
      Field field = struct.fields().get(i);
      fields[i] = acceptField(row.get(field.name()), field);
    }
    return Row.of(struct, fields);
  }

  /** Checks a value, which may be null, against a field. */
  public static @Nullable Object acceptField(@Nullable Object value, Field field) {
    if (value != null) {
      return accept(value, field.type());
    }
    if (field.required()) {
      throw new InvalidInputException("null, but " + field.name() + " is NOT NULL");
    }
    return null;
  }

  private static Object acceptSimple(Object value, Type.Simple type) {
    return switch (type) {
      case BOOLEAN -> expect(Boolean.class, value, type);
      case INTEGER -> number(Integer.class, value, type);
      case BIGINT -> number(Long.class, value, type);
      case REAL -> number(Float.class, value, type);
      case DOUBLE -> number(Double.class, value, type);
      case DATE -> {
        LocalDate date = expect(LocalDate.class, value, type);
        if (date.toEpochDay() != (int) date.toEpochDay()) {
          throw outOfRange(value, type);
        }
        yield date;
      }
      case TIME -> {
        LocalTime time = expect(LocalTime.class, value, type);
        checkMicros((int) (time.toNanoOfDay() % 1_000_000_000L), value, type);
        yield time;
      }
      case TIMESTAMP -> {
        LocalDateTime time = expect(LocalDateTime.class, value, type);
        micros(time.toInstant(ZoneOffset.UTC), value, type);
        yield time;
      }
      case INSTANT -> {
        micros(expect(Instant.class, value, type), value, type);
        yield value;
      }
      case BINARY -> expect(byte[].class, value, type);
      case UUID -> expect(UUID.class, value, type);
      case JSON -> Json.checkDocument(expect(String.class, value, type));
    };
  }

  private static String acceptText(String text, Type.Text type) {
    int half = Limits.halfCharacter(text);
    if (half >= 0) {
      throw new InvalidInputException(
          "%s contains half of a surrogate pair (U+%04X) at position %d"
              .formatted(quote(text), (int) text.charAt(half), half));
    }
    int characters = text.codePointCount(0, text.length());
    if (type.limit().isPresent() && characters > type.limit().getAsInt()) {
      throw new InvalidInputException(
          "%s has %d characters, more than %s allows".formatted(quote(text), characters, type));
    }
    return text;
  }

  private static BigDecimal acceptDecimal(BigDecimal value, Type.Decimal type) {
    Decimals.bounded(value);
    BigDecimal scaled;
    try {
      scaled = value.setScale(type.scale(), RoundingMode.UNNECESSARY);
    } catch (ArithmeticException e) {
      throw new InvalidInputException(
          "%s has more decimal places than the %d of %s; round it first"
              .formatted(Decimals.show(value), type.scale(), type),
          e);
    }
    if (scaled.precision() > type.precision()) {
      throw outOfRange(value, type);
    }
    return scaled;
  }

  /** A number that is exactly one of the type's, whatever number it was given as. */
  private static <T> T number(Class<T> javaClass, Object value, Type type) {
    return javaClass.isInstance(value)
        ? javaClass.cast(value)
        : expect(javaClass, ExactNumbers.of(value, type).orElse(value), type);
  }

  private static <T> T expect(Class<T> javaClass, Object value, Type type) {
    if (javaClass.isInstance(value)) {
      return javaClass.cast(value);
    }
    throw new InvalidInputException(
        "%s is %s, but %s takes %s"
            .formatted(show(value), kind(value), type, WithArticle.of(javaClass.getSimpleName())));
  }

  private static String kind(Object value) {
    if (value instanceof List) {
      return "a List";
    }
    return value instanceof Map ? "a Map" : WithArticle.of(value.getClass().getSimpleName());
  }

  private static InvalidInputException outOfRange(Object value, Type type) {
    return new InvalidInputException(show(value) + " is out of the range of " + type);
  }

  private static void checkMicros(int nanos, Object value, Type type) {
    if (nanos % 1000 != 0) {
      throw new InvalidInputException(
          "%s is more precise than the microseconds of %s; truncate it first"
              .formatted(value, type));
    }
  }

  private static long micros(Instant instant, Object value, Type type) {
    checkMicros(instant.getNano(), value, type);
    try {
      // Counted from the second nearer to zero, so that the least value does not overflow.
      long carried = instant.getEpochSecond() < 0 ? 1 : 0;
      return Math.addExact(
          Math.multiplyExact(instant.getEpochSecond() + carried, 1_000_000L),
          instant.getNano() / 1000 - carried * 1_000_000L);
    } catch (ArithmeticException e) {
      throw outOfRange(value, type);
    }
  }

  /** The microseconds since 1970-01-01 of an instant, which must have no finer part. */
  public static long micros(Instant instant) {
    return micros(instant, instant, Types.INSTANT);
  }

  /** The last whole microsecond at or before an instant; the nearest possible one far away. */
  public static long floorMicros(Instant instant) {
    long most = Long.MAX_VALUE / 1_000_000L - 1;
    long seconds = Math.max(-most, Math.min(most, instant.getEpochSecond()));
    return seconds * 1_000_000L + instant.getNano() / 1000;
  }

  /** The instant of some microseconds since 1970-01-01. */
  public static Instant instant(long micros) {
    return Instant.ofEpochSecond(
        Math.floorDiv(micros, 1_000_000L), Math.floorMod(micros, 1_000_000L) * 1000);
  }

  /** The physical form of an accepted value whose type is held as a boolean, int or long. */
  public static long toLong(Object value, Type type) {
    if (type instanceof Type.Decimal) {
      return ((BigDecimal) value).unscaledValue().longValueExact();
    }
    if (type instanceof Type.Interval) {
      return value instanceof Period period
          ? period.toTotalMonths()
          : micros(Instant.EPOCH.plus((Duration) value));
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> (Boolean) value ? 1 : 0;
      case INTEGER -> (Integer) value;
      case BIGINT -> (Long) value;
      case DATE -> ((LocalDate) value).toEpochDay();
      case TIME -> TimeUnit.NANOSECONDS.toMicros(((LocalTime) value).toNanoOfDay());
      case TIMESTAMP -> micros(((LocalDateTime) value).toInstant(ZoneOffset.UTC));
      case INSTANT -> micros((Instant) value);
      case REAL, DOUBLE, BINARY, UUID, JSON ->
          throw new IllegalArgumentException(type + " is not stored as a whole number");
    };
  }

  /** The value of a physical whole number. */
  public static Object fromLong(long held, Type type) {
    if (type instanceof Type.Decimal decimal) {
      return BigDecimal.valueOf(held, decimal.scale());
    }
    if (type instanceof Type.Interval) {
      return type == Type.Interval.MONTHS
          ? Period.ofMonths((int) held)
          : Duration.of(held, ChronoUnit.MICROS);
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> held != 0;
      case INTEGER -> (int) held;
      case BIGINT -> held;
      case DATE -> LocalDate.ofEpochDay(held);
      case TIME -> {
        if (held < 0 || held >= MICROS_A_DAY) {
          throw none(type, Long.toString(held));
        }
        yield LocalTime.ofNanoOfDay(TimeUnit.MICROSECONDS.toNanos(held));
      }
      case TIMESTAMP -> LocalDateTime.ofInstant(instant(held), ZoneOffset.UTC);
      case INSTANT -> instant(held);
      case REAL, DOUBLE, BINARY, UUID, JSON ->
          throw new IllegalArgumentException(type + " is not stored as a whole number");
    };
  }

  /** The physical form of an accepted value whose type is held as bytes. */
  public static byte[] toBytes(Object value, Type type) {
    if (type instanceof Type.Decimal) {
      return orderedDecimal(((BigDecimal) value).unscaledValue());
    }
    if (type == Types.BINARY) {
      return (byte[]) value;
    }
    if (type == Types.UUID) {
      UUID uuid = (UUID) value;
      return ByteBuffer.allocate(16)
          .putLong(uuid.getMostSignificantBits())
          .putLong(uuid.getLeastSignificantBits())
          .array();
    }
    return ((String) value).getBytes(StandardCharsets.UTF_8);
  }

  private static DamagedException none(Type type, String held) {
    return new DamagedException("A stored value is no %s: %s.".formatted(type, held));
  }

  /** The value of physical bytes. */
  public static Object fromBytes(byte[] bytes, int start, int length, Type type) {
    int fixed = type instanceof Type.Decimal || type == Types.UUID ? LONG_DECIMAL_BYTES : length;
    if (length != fixed) {
      throw none(type, length + " bytes");
    }
    if (type instanceof Type.Decimal decimal) {
      byte[] signed = java.util.Arrays.copyOfRange(bytes, start, start + length);
      signed[0] ^= (byte) 0x80;
      return new BigDecimal(new BigInteger(signed), decimal.scale());
    }
    if (type == Types.BINARY) {
      return java.util.Arrays.copyOfRange(bytes, start, start + length);
    }
    if (type == Types.UUID) {
      ByteBuffer buffer = ByteBuffer.wrap(bytes, start, length);
      return new UUID(buffer.getLong(), buffer.getLong());
    }
    return new String(bytes, start, length, StandardCharsets.UTF_8);
  }

  /** 16 bytes, big-endian, sign bit inverted: the bytes order like the numbers. */
  public static byte[] orderedDecimal(BigInteger unscaled) {
    byte[] twos = unscaled.toByteArray();
    byte[] ordered = new byte[LONG_DECIMAL_BYTES];
    if (unscaled.signum() < 0) {
      java.util.Arrays.fill(ordered, (byte) 0xff);
    }
    System.arraycopy(twos, 0, ordered, LONG_DECIMAL_BYTES - twos.length, twos.length);
    ordered[0] ^= (byte) 0x80;
    return ordered;
  }

  /** A short form of a value for messages. */
  public static String show(@Nullable Object value) {
    if (value instanceof String text) {
      return quote(text);
    }
    if (value instanceof byte[] bytes) {
      byte[] head = java.util.Arrays.copyOf(bytes, Math.min(bytes.length, LONGEST_SHOWN / 2));
      return "X'" + HexFormat.of().formatHex(head) + (head.length < bytes.length ? "…" : "") + "'";
    }
    String text =
        value instanceof BigDecimal number ? Decimals.show(number) : String.valueOf(value);
    return text.length() > LONGEST_SHOWN ? text.substring(0, LONGEST_SHOWN) + "…" : text;
  }

  /** Text in quotes for messages, shortened, every character visible. */
  public static String quote(String text) {
    StringBuilder shown = new StringBuilder("'");
    text.codePoints()
        .limit(LONGEST_SHOWN)
        .forEach(
            c -> {
              shown.append(Visible.of(Character.toString(c)));
            });
    if (text.codePointCount(0, text.length()) > LONGEST_SHOWN) {
      shown.append('…');
    }
    return shown.append('\'').toString();
  }

  /** A value as an SQL literal. */
  public static String literal(@Nullable Object value) {
    if (value instanceof Double || value instanceof Float) {
      double number = ((Number) value).doubleValue();
      return Double.isFinite(number) ? Double.toString(number) : "'" + number + "'";
    }
    if (value instanceof String || value instanceof UUID) {
      return "'" + value.toString().replace("'", "''") + "'";
    }
    if (value instanceof byte[] bytes) {
      return "X'" + HexFormat.of().formatHex(bytes) + "'";
    }
    if (value instanceof LocalDate) {
      return "DATE '" + value + "'";
    }
    if (value instanceof LocalTime) {
      return "TIME '" + value + "'";
    }
    if (value instanceof LocalDateTime) {
      return "TIMESTAMP '" + value.toString().replace('T', ' ') + "'";
    }
    if (value instanceof Instant instant) {
      String local = LocalDateTime.ofInstant(instant, ZoneOffset.UTC).toString();
      return "TIMESTAMP '" + local.replace('T', ' ') + "+00:00'";
    }
    return value instanceof BigDecimal number ? Decimals.show(number) : String.valueOf(value);
  }
}
