package org.ysteron.internal.drift;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.text.Limits;

/**
 * Values of any of our classes as bytes and back, each with a byte in front that says what it is.
 * The fields of rows, and the names of text rows, are kept in memory, once for all rows that have
 * the same. For one thread.
 */
final class RawValues {
  private static final int NULL = 0;
  private static final int TRUE = 1;
  private static final int FALSE = 2;
  private static final int INTEGER = 3;
  private static final int LONG = 4;
  private static final int WHOLE = 5;
  private static final int DECIMAL = 6;
  private static final int DOUBLE = 7;
  private static final int FLOAT = 8;
  private static final int TEXT = 9;
  private static final int FIELD_TEXT = 10;
  private static final int LIST = 11;
  private static final int MAP = 12;
  private static final int ROW = 13;
  private static final int TEXT_ROW = 14;
  private static final int PART_ROW = 15;
  private static final int DATE = 16;
  private static final int TIME = 17;
  private static final int TIMESTAMP = 18;
  private static final int INSTANT = 19;
  private static final int BYTES = 20;
  private static final int UUID = 21;

  private final KnownValues<List<Field>> fields = new KnownValues<>();
  private final KnownValues<List<String>> names = new KnownValues<>();

  /**
   * Writes a value.
   *
   * @throws InvalidInputException when it is none of ours
   */
  void write(Object value, ByteOut out) {
    if (value == null) {
      tag(NULL, out);
    } else if (value instanceof TextRow row) {
      writeTextRow(row, out);
    } else if (value instanceof WaitingRow row) {
      tag(PART_ROW, out);
      write(row.fitted(), out);
      write(row.rest(), out);
    } else if (value instanceof String text) {
      writeText(TEXT, text, out);
    } else if (value instanceof FieldText text) {
      writeText(FIELD_TEXT, text.text(), out);
    } else if (value instanceof Boolean flag) {
      tag(flag ? TRUE : FALSE, out);
    } else if (value instanceof Number number) {
      writeNumber(number, out);
    } else if (value instanceof List<?> list) {
      tag(LIST, out);
      out.varint(list.size());
      for (Object each : list) {
        write(each, out);
      }
    } else if (value instanceof Map<?, ?> map) {
      tag(MAP, out);
      out.varint(map.size());
      for (Map.Entry<?, ?> entry : map.entrySet()) {
        write(entry.getKey(), out);
        write(entry.getValue(), out);
      }
    } else if (value instanceof Row row) {
      tag(ROW, out);
      out.varint(fields.number(row.fields()));
      for (int i = 0; i < row.fields().size(); i++) {
        write(row.get(i), out);
      }
    } else {
      writeOther(value, out);
    }
  }

  private static void tag(int tag, ByteOut out) {
    out.u8(tag);
  }

  private void writeTextRow(TextRow row, ByteOut out) {
    tag(TEXT_ROW, out);
    out.varint(names.number(row.names()));
    for (String value : row.values()) {
      out.u8(value == null ? 0 : 1);
      if (value != null) {
        writeBytes(value, out);
      }
    }
  }

  private static void writeText(int tag, String text, ByteOut out) {
    tag(tag, out);
    writeBytes(text, out);
  }

  private static void writeBytes(String text, ByteOut out) {
    if (Limits.halfCharacter(text) >= 0) {
      Values.accept(text, Types.text()); // says what is wrong
    }
    out.text(text);
  }

  private static void writeNumber(Number number, ByteOut out) {
    if (number instanceof Integer) {
      tag(INTEGER, out);
      out.signed(number.intValue());
    } else if (number instanceof Long) {
      tag(LONG, out);
      out.signed(number.longValue());
    } else if (number instanceof Double) {
      tag(DOUBLE, out);
      out.fixed64(Double.doubleToRawLongBits(number.doubleValue()));
    } else if (number instanceof Float) {
      tag(FLOAT, out);
      out.varint(Float.floatToRawIntBits(number.floatValue()) & 0xffffffffL);
    } else if (number instanceof BigInteger whole) {
      tag(WHOLE, out);
      out.sized(whole.toByteArray());
    } else if (number instanceof BigDecimal decimal) {
      tag(DECIMAL, out);
      out.signed(decimal.scale()).sized(decimal.unscaledValue().toByteArray());
    } else {
      throw unknown(number);
    }
  }

  private static InvalidInputException unknown(Object value) {
    return new InvalidInputException(
        "%s (%s) is not a value of a column"
            .formatted(Values.show(String.valueOf(value)), value.getClass().getSimpleName()));
  }

  private static void writeOther(Object value, ByteOut out) {
    Type type = Types.ofJava(value).orElseThrow(() -> unknown(value));
    Values.accept(value, type);
    if (value instanceof LocalDate date) {
      tag(DATE, out);
      out.signed(date.toEpochDay());
    } else if (value instanceof LocalTime time) {
      tag(TIME, out);
      out.signed(time.toNanoOfDay());
    } else if (value instanceof LocalDateTime time) {
      tag(TIMESTAMP, out);
      writeInstant(time.toInstant(ZoneOffset.UTC), out);
    } else if (value instanceof Instant instant) {
      tag(INSTANT, out);
      writeInstant(instant, out);
    } else if (value instanceof byte[] bytes) {
      tag(BYTES, out);
      out.sized(bytes);
    } else if (value instanceof UUID id) {
      tag(UUID, out);
      out.fixed64(id.getMostSignificantBits()).fixed64(id.getLeastSignificantBits());
    } else {
      throw unknown(value);
    }
  }

  private static void writeInstant(Instant instant, ByteOut out) {
    out.signed(instant.getEpochSecond()).varint(instant.getNano());
  }

  /** Reads a value. */
  Object read(ByteIn in) {
    return switch (in.u8()) {
      case NULL -> null;
      case TRUE -> true;
      case FALSE -> false;
      case INTEGER -> (int) in.signed();
      case LONG -> in.signed();
      case WHOLE -> new BigInteger(bytes(in));
      case DECIMAL -> decimal(in);
      case DOUBLE -> Double.longBitsToDouble(in.fixed64());
      case FLOAT -> Float.intBitsToFloat((int) in.varint());
      case TEXT -> text(in);
      case FIELD_TEXT -> new FieldText(text(in));
      case LIST -> list(in);
      case MAP -> map(in);
      case ROW -> row(in);
      case TEXT_ROW -> textRow(in);
      case PART_ROW -> partRow(in);
      case DATE -> LocalDate.ofEpochDay(in.signed());
      case TIME -> LocalTime.ofNanoOfDay(in.signed());
      case TIMESTAMP -> LocalDateTime.ofInstant(instant(in), ZoneOffset.UTC);
      case INSTANT -> instant(in);
      case BYTES -> bytes(in);
      case UUID -> new UUID(in.fixed64(), in.fixed64());
      default -> throw new IllegalStateException("what was written is not what is read");
    };
  }

  /** Of any length, as it was written here. */
  private static byte[] bytes(ByteIn in) {
    return in.raw((int) in.varint());
  }

  private static String text(ByteIn in) {
    return new String(bytes(in), StandardCharsets.UTF_8);
  }

  private static BigDecimal decimal(ByteIn in) {
    int scale = (int) in.signed();
    return new BigDecimal(new BigInteger(bytes(in)), scale);
  }

  private static Instant instant(ByteIn in) {
    return Instant.ofEpochSecond(in.signed(), in.varint());
  }

  private List<Object> list(ByteIn in) {
    int size = (int) in.varint();
    List<Object> list = new ArrayList<>();
    for (int i = 0; i < size; i++) {
      list.add(read(in));
    }
    return list;
  }

  private Map<Object, Object> map(ByteIn in) {
    int size = (int) in.varint();
    Map<Object, Object> map = new LinkedHashMap<>();
    for (int i = 0; i < size; i++) {
      Object key = read(in);
      map.put(key, read(in));
    }
    return map;
  }

  @SuppressWarnings("unchecked") // its names are texts
  private WaitingRow partRow(ByteIn in) {
    Row fitted = (Row) read(in);
    return new WaitingRow(fitted, (Map<String, Object>) read(in));
  }

  private Row row(ByteIn in) {
    List<Field> of = fields.get((int) in.varint());
    Object[] values = new Object[of.size()];
    for (int i = 0; i < values.length; i++) {
      values[i] = read(in);
    }
    return Row.of(new Type.Struct(of), values);
  }

  private TextRow textRow(ByteIn in) {
    List<String> of = names.get((int) in.varint());
    String[] values = new String[of.size()];
    for (int i = 0; i < values.length; i++) {
      values[i] = in.u8() == 0 ? null : text(in);
    }
    return new TextRow(of, values);
  }
}
