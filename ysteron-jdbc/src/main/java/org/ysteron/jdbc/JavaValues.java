package org.ysteron.jdbc;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.sql.Array;
import java.sql.Date;
import java.sql.SQLException;
import java.sql.Struct;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.OffsetTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Calendar;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Values;

/**
 * Values of a lake as the classes that clients ask for. Numbers that do not fit are refused; times
 * without a zone are those of a calendar on the wall.
 *
 * @param zone of instants that are asked for as times with an offset or as days
 */
record JavaValues(ZoneId zone) {

  private static SQLException cannot(Object value, String as) {
    return SqlErrors.of(
        SqlErrors.DATA, "%s cannot be read as %s.".formatted(Values.show(value), as));
  }

  private static SQLException tooLarge(Object value, String as) {
    return SqlErrors.of(
        SqlErrors.OUT_OF_RANGE, "%s does not fit %s.".formatted(Values.show(value), as));
  }

  /** A whole number within bounds; what is behind the point is cut, as JDBC has it. */
  static long whole(Object value, long least, long most, String as) throws SQLException {
    BigInteger whole;
    if (value instanceof Integer || value instanceof Long) {
      long number = ((Number) value).longValue();
      if (number < least || number > most) {
        throw tooLarge(value, as);
      }
      return number;
    }
    if (value instanceof Boolean truth) {
      return truth ? 1 : 0;
    }
    whole = decimal(value, as).toBigInteger();
    if (whole.compareTo(BigInteger.valueOf(least)) < 0
        || whole.compareTo(BigInteger.valueOf(most)) > 0) {
      throw tooLarge(value, as);
    }
    return whole.longValue();
  }

  static double floating(Object value) throws SQLException {
    if (value instanceof Number number) {
      return number.doubleValue();
    }
    if (value instanceof Boolean truth) {
      return truth ? 1 : 0;
    }
    try {
      if (value instanceof String text) {
        return Double.parseDouble(text.strip());
      }
    } catch (NumberFormatException e) {
      throw cannot(value, "a number");
    }
    throw cannot(value, "a number");
  }

  static BigDecimal decimal(Object value, String as) throws SQLException {
    try {
      if (value instanceof BigDecimal number) {
        return number;
      }
      if (value instanceof Integer || value instanceof Long) {
        return BigDecimal.valueOf(((Number) value).longValue());
      }
      if (value instanceof Float) {
        return new BigDecimal(value.toString());
      }
      if (value instanceof Double number) {
        return BigDecimal.valueOf(number);
      }
      if (value instanceof Boolean truth) {
        return truth ? BigDecimal.ONE : BigDecimal.ZERO;
      }
      if (value instanceof String text) {
        return new BigDecimal(text.strip());
      }
    } catch (NumberFormatException e) {
      throw cannot(value, as);
    }
    throw cannot(value, as);
  }

  static BigDecimal decimal(Object value, int scale) throws SQLException {
    return decimal(value, "a number").setScale(scale, RoundingMode.HALF_UP);
  }

  static boolean truth(Object value) throws SQLException {
    if (value instanceof Boolean truth) {
      return truth;
    }
    if (value instanceof Number number) {
      return number.doubleValue() != 0;
    }
    if (value instanceof String text) {
      switch (text.strip().toLowerCase(java.util.Locale.ROOT)) {
        case "true", "1" -> {
          return true;
        }
        case "false", "0" -> {
          return false;
        }
        default -> {}
      }
    }
    throw cannot(value, "true or false");
  }

  static byte[] bytes(Object value) throws SQLException {
    if (value instanceof byte[] bytes) {
      return bytes;
    }
    throw cannot(value, "bytes");
  }

  /**
   * A value as a text: times as SQL writes them, bytes as hexadecimal digits, nested ones as JSON.
   */
  String text(Object value, Type type) {
    if (value instanceof BigDecimal number) {
      return number.toPlainString();
    }
    if (value instanceof LocalDateTime time) {
      return Timestamp.valueOf(time).toString();
    }
    if (value instanceof Instant time) {
      OffsetDateTime at = time.atZone(zone).toOffsetDateTime();
      return Timestamp.valueOf(at.toLocalDateTime())
          + at.getOffset().toString().replace("Z", "+00:00");
    }
    if (value instanceof byte[] bytes) {
      return java.util.HexFormat.of().formatHex(bytes);
    }
    return type.isNested() ? Json.write(Json.toJson(value, type)) : value.toString();
  }

  LocalDate date(Object value) throws SQLException {
    if (value instanceof LocalDate date) {
      return date;
    }
    if (value instanceof LocalDateTime time) {
      return time.toLocalDate();
    }
    if (value instanceof Instant time) {
      return LocalDate.ofInstant(time, zone);
    }
    throw cannot(value, "a date");
  }

  LocalTime time(Object value) throws SQLException {
    if (value instanceof LocalTime time) {
      return time;
    }
    if (value instanceof LocalDateTime time) {
      return time.toLocalTime();
    }
    if (value instanceof Instant time) {
      return LocalTime.ofInstant(time, zone);
    }
    throw cannot(value, "a time");
  }

  LocalDateTime dateTime(Object value) throws SQLException {
    if (value instanceof LocalDateTime time) {
      return time;
    }
    if (value instanceof LocalDate date) {
      return date.atStartOfDay();
    }
    if (value instanceof Instant time) {
      return LocalDateTime.ofInstant(time, zone);
    }
    throw cannot(value, "a timestamp");
  }

  /** An instant; a time without a zone is one of the connection's zone. */
  Instant instant(Object value) throws SQLException {
    return value instanceof Instant time ? time : dateTime(value).atZone(zone).toInstant();
  }

  private static ZoneId zone(@Nullable Calendar calendar) {
    return calendar == null ? ZoneId.systemDefault() : calendar.getTimeZone().toZoneId();
  }

  /** A timestamp of JDBC: an instant as it is, other times on the wall of a calendar. */
  Timestamp timestamp(Object value, @Nullable Calendar calendar) throws SQLException {
    return value instanceof Instant time
        ? Timestamp.from(time)
        : Timestamp.from(dateTime(value).atZone(zone(calendar)).toInstant());
  }

  Date sqlDate(Object value, @Nullable Calendar calendar) throws SQLException {
    return new Date(date(value).atStartOfDay(zone(calendar)).toInstant().toEpochMilli());
  }

  Time sqlTime(Object value, @Nullable Calendar calendar) throws SQLException {
    return new Time(
        time(value).atDate(LocalDate.EPOCH).atZone(zone(calendar)).toInstant().toEpochMilli());
  }

  /** A value as the class that JDBC names for its type. */
  Object standard(Object value, Type type) throws SQLException {
    if (value instanceof LocalDate) {
      return sqlDate(value, null);
    }
    if (value instanceof LocalTime) {
      return sqlTime(value, null);
    }
    if (value instanceof LocalDateTime) {
      return timestamp(value, null);
    }
    if (value instanceof Instant time) {
      return time.atZone(zone).toOffsetDateTime();
    }
    if (value instanceof List<?> list && type instanceof Type.ListOf of) {
      return new LakeArray(of.element().type(), list, zone);
    }
    return value instanceof Row row ? LakeStruct.of(row, this) : value;
  }

  /** A value as a class. */
  <T> T as(Object value, Type type, Class<T> wanted) throws SQLException {
    Object made = made(value, type, wanted);
    if (made == null) {
      throw cannot(value, "a " + wanted.getName());
    }
    @SuppressWarnings("unchecked") // primitive classes are those of their wrappers
    T cast = (T) made;
    return cast;
  }

  private @Nullable Object made(Object value, Type type, Class<?> wanted) throws SQLException {
    if (wanted == String.class) {
      return text(value, type);
    }
    if (wanted == Integer.class || wanted == int.class) {
      return (int) whole(value, Integer.MIN_VALUE, Integer.MAX_VALUE, "an int");
    }
    if (wanted == Long.class || wanted == long.class) {
      return whole(value, Long.MIN_VALUE, Long.MAX_VALUE, "a long");
    }
    if (wanted == Short.class || wanted == short.class) {
      return (short) whole(value, Short.MIN_VALUE, Short.MAX_VALUE, "a short");
    }
    if (wanted == Byte.class || wanted == byte.class) {
      return (byte) whole(value, Byte.MIN_VALUE, Byte.MAX_VALUE, "a byte");
    }
    if (wanted == Double.class || wanted == double.class) {
      return floating(value);
    }
    if (wanted == Float.class || wanted == float.class) {
      return (float) floating(value);
    }
    if (wanted == BigDecimal.class) {
      return decimal(value, "a number");
    }
    if (wanted == BigInteger.class) {
      return decimal(value, "a number").toBigInteger();
    }
    if (wanted == Boolean.class || wanted == boolean.class) {
      return truth(value);
    }
    if (wanted == UUID.class && value instanceof String text) {
      return UUID.fromString(text);
    }
    Object time = time(value, wanted);
    if (time != null) {
      return time;
    }
    Object standard = standard(value, type);
    return wanted.isInstance(value) ? value : wanted.isInstance(standard) ? standard : null;
  }

  @SuppressWarnings("JavaUtilDate") // clients ask for it
  private @Nullable Object time(Object value, Class<?> wanted) throws SQLException {
    if (wanted == LocalDate.class) {
      return date(value);
    }
    if (wanted == LocalTime.class) {
      return time(value);
    }
    if (wanted == LocalDateTime.class) {
      return dateTime(value);
    }
    if (wanted == Instant.class) {
      return instant(value);
    }
    if (wanted == OffsetDateTime.class) {
      return instant(value).atZone(zone).toOffsetDateTime();
    }
    if (wanted == ZonedDateTime.class) {
      return instant(value).atZone(zone);
    }
    if (wanted == OffsetTime.class) {
      return instant(value).atZone(zone).toOffsetDateTime().toOffsetTime();
    }
    if (wanted == Timestamp.class) {
      return timestamp(value, null);
    }
    if (wanted == java.util.Date.class) {
      return new java.util.Date(timestamp(value, null).getTime());
    }
    if (wanted == Date.class) {
      return sqlDate(value, null);
    }
    return wanted == Time.class ? sqlTime(value, null) : null;
  }

  /** What stands for a question mark, of the class that the library knows. */
  static @Nullable Object given(@Nullable Object value) throws SQLException {
    if (value instanceof Timestamp time) {
      return TimeParameter.of(time, null);
    }
    if (value instanceof Date date) {
      return date.toLocalDate();
    }
    if (value instanceof Time time) {
      return time.toLocalTime();
    }
    if (value instanceof java.util.Date date) {
      return date.toInstant();
    }
    if (value instanceof Calendar calendar) {
      return calendar.toInstant();
    }
    if (value instanceof OffsetDateTime time) {
      return time.toInstant();
    }
    if (value instanceof ZonedDateTime time) {
      return time.toInstant();
    }
    if (value instanceof OffsetTime time) {
      return time.toLocalTime();
    }
    if (value instanceof BigInteger number) {
      return new BigDecimal(number);
    }
    if (value instanceof Character letter) {
      return letter.toString();
    }
    if (value instanceof Array array) {
      return LakeArray.elements(array);
    }
    if (value instanceof Struct struct) {
      return LakeStruct.values(struct);
    }
    if (value instanceof @Nullable Object[] elements) {
      return LakeArray.elements(elements);
    }
    if (value == null) {
      return null;
    }
    boolean isKnown =
        value instanceof Number
            || value instanceof String
            || value instanceof Boolean
            || value instanceof byte[]
            || value instanceof UUID
            || value instanceof LocalDate
            || value instanceof LocalTime
            || value instanceof LocalDateTime
            || value instanceof Instant
            || value instanceof List
            || value instanceof Map
            || value instanceof Row;
    if (!isKnown) {
      throw SqlErrors.of(
          SqlErrors.DATA,
          "A %s cannot be the value of a parameter.".formatted(value.getClass().getName()));
    }
    return value;
  }
}
