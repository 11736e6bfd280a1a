package org.ysteron.drift;

import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Field;
import org.ysteron.data.Limits;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;

/**
 * Values of any of our classes as bytes and back, each with a byte in front that says what it is.
 * The fields of rows, and the names of text rows, are kept in memory, once for all rows that have
 * the same. For one thread.
 */
final class RawValues {
  private final Known<List<Field>> fields = new Known<>();
  private final Known<List<String>> names = new Known<>();

  /** Things by number, of which most often the last one is asked for again. */
  private static final class Known<T> {
    private final List<T> all = new ArrayList<>();
    private final Map<T, Integer> numbers = new HashMap<>();
    private T last;
    private int number;

    int number(T one) {
      if (one != last) {
        number = numbers.computeIfAbsent(one, o -> all.size());
        if (number == all.size()) {
          all.add(one);
        }
        last = one;
      }
      return number;
    }

    T get(int at) {
      return all.get(at);
    }
  }

  private enum Tag {
    NULL,
    TRUE,
    FALSE,
    INTEGER,
    LONG,
    WHOLE,
    DECIMAL,
    DOUBLE,
    FLOAT,
    TEXT,
    FIELD_TEXT,
    LIST,
    MAP,
    ROW,
    TEXT_ROW,
    DATE,
    TIME,
    TIMESTAMP,
    INSTANT,
    BYTES,
    UUID;

    private static final Tag[] ALL = values();
  }

  /**
   * Writes a value.
   *
   * @throws InvalidInputException when it is none of ours
   */
  void write(Object value, DataOutputStream out) throws IOException {
    if (value == null) {
      tag(Tag.NULL, out);
    } else if (value instanceof TextRow row) {
      writeTextRow(row, out);
    } else if (value instanceof String text) {
      writeText(Tag.TEXT, text, out);
    } else if (value instanceof FieldText text) {
      writeText(Tag.FIELD_TEXT, text.text(), out);
    } else if (value instanceof Boolean truth) {
      tag(truth ? Tag.TRUE : Tag.FALSE, out);
    } else if (value instanceof Number number) {
      writeNumber(number, out);
    } else if (value instanceof List<?> list) {
      tag(Tag.LIST, out);
      out.writeInt(list.size());
      for (Object each : list) {
        write(each, out);
      }
    } else if (value instanceof Map<?, ?> map) {
      tag(Tag.MAP, out);
      out.writeInt(map.size());
      for (Map.Entry<?, ?> entry : map.entrySet()) {
        write(entry.getKey(), out);
        write(entry.getValue(), out);
      }
    } else if (value instanceof Row row) {
      tag(Tag.ROW, out);
      out.writeInt(fields.number(row.fields()));
      for (int i = 0; i < row.fields().size(); i++) {
        write(row.get(i), out);
      }
    } else {
      writeOther(value, out);
    }
  }

  private static void tag(Tag tag, DataOutputStream out) throws IOException {
    out.writeByte(tag.ordinal());
  }

  private void writeTextRow(TextRow row, DataOutputStream out) throws IOException {
    tag(Tag.TEXT_ROW, out);
    out.writeInt(names.number(row.names()));
    for (String value : row.values()) {
      if (value == null) {
        out.writeInt(-1);
      } else {
        writeBytes(value, out);
      }
    }
  }

  private static void writeText(Tag tag, String text, DataOutputStream out) throws IOException {
    tag(tag, out);
    writeBytes(text, out);
  }

  private static void writeBytes(String text, DataOutputStream out) throws IOException {
    if (Limits.halfCharacter(text) >= 0) {
      Values.accept(text, Types.text()); // says what is wrong
    }
    byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
    out.writeInt(bytes.length);
    out.write(bytes);
  }

  private static void writeNumber(Number number, DataOutputStream out) throws IOException {
    if (number instanceof Integer) {
      tag(Tag.INTEGER, out);
      out.writeInt(number.intValue());
    } else if (number instanceof Long) {
      tag(Tag.LONG, out);
      out.writeLong(number.longValue());
    } else if (number instanceof Double) {
      tag(Tag.DOUBLE, out);
      out.writeDouble(number.doubleValue());
    } else if (number instanceof Float) {
      tag(Tag.FLOAT, out);
      out.writeFloat(number.floatValue());
    } else if (number instanceof BigInteger) {
      writeText(Tag.WHOLE, number.toString(), out);
    } else if (number instanceof BigDecimal) {
      writeText(Tag.DECIMAL, number.toString(), out);
    } else {
      throw unknown(number);
    }
  }

  private static InvalidInputException unknown(Object value) {
    return new InvalidInputException(
        "%s (%s) is not a value of a column"
            .formatted(Values.show(String.valueOf(value)), value.getClass().getSimpleName()));
  }

  private static void writeOther(Object value, DataOutputStream out) throws IOException {
    Type type = Types.ofJava(value).orElseThrow(() -> unknown(value));
    Values.accept(value, type);
    if (value instanceof LocalDate date) {
      tag(Tag.DATE, out);
      out.writeLong(date.toEpochDay());
    } else if (value instanceof LocalTime time) {
      tag(Tag.TIME, out);
      out.writeLong(time.toNanoOfDay());
    } else if (value instanceof LocalDateTime time) {
      tag(Tag.TIMESTAMP, out);
      writeInstant(time.toInstant(ZoneOffset.UTC), out);
    } else if (value instanceof Instant instant) {
      tag(Tag.INSTANT, out);
      writeInstant(instant, out);
    } else if (value instanceof byte[] bytes) {
      tag(Tag.BYTES, out);
      out.writeInt(bytes.length);
      out.write(bytes);
    } else if (value instanceof UUID id) {
      tag(Tag.UUID, out);
      out.writeLong(id.getMostSignificantBits());
      out.writeLong(id.getLeastSignificantBits());
    } else {
      throw unknown(value);
    }
  }

  private static void writeInstant(Instant instant, DataOutputStream out) throws IOException {
    out.writeLong(instant.getEpochSecond());
    out.writeInt(instant.getNano());
  }

  /** Reads a value. */
  Object read(DataInputStream in) throws IOException {
    return switch (Tag.ALL[in.readByte()]) {
      case NULL -> null;
      case TRUE -> true;
      case FALSE -> false;
      case INTEGER -> in.readInt();
      case LONG -> in.readLong();
      case WHOLE -> new BigInteger(text(in));
      case DECIMAL -> new BigDecimal(text(in));
      case DOUBLE -> in.readDouble();
      case FLOAT -> in.readFloat();
      case TEXT -> text(in);
      case FIELD_TEXT -> new FieldText(text(in));
      case LIST -> list(in);
      case MAP -> map(in);
      case ROW -> row(in);
      case TEXT_ROW -> textRow(in);
      case DATE -> LocalDate.ofEpochDay(in.readLong());
      case TIME -> LocalTime.ofNanoOfDay(in.readLong());
      case TIMESTAMP -> LocalDateTime.ofInstant(instant(in), ZoneOffset.UTC);
      case INSTANT -> instant(in);
      case BYTES -> in.readNBytes(in.readInt());
      case UUID -> new UUID(in.readLong(), in.readLong());
    };
  }

  private static String text(DataInputStream in) throws IOException {
    return new String(in.readNBytes(in.readInt()), StandardCharsets.UTF_8);
  }

  private static Instant instant(DataInputStream in) throws IOException {
    return Instant.ofEpochSecond(in.readLong(), in.readInt());
  }

  private List<Object> list(DataInputStream in) throws IOException {
    int size = in.readInt();
    List<Object> list = new ArrayList<>();
    for (int i = 0; i < size; i++) {
      list.add(read(in));
    }
    return list;
  }

  private Map<Object, Object> map(DataInputStream in) throws IOException {
    int size = in.readInt();
    Map<Object, Object> map = new LinkedHashMap<>();
    for (int i = 0; i < size; i++) {
      Object key = read(in);
      map.put(key, read(in));
    }
    return map;
  }

  private Row row(DataInputStream in) throws IOException {
    List<Field> of = fields.get(in.readInt());
    Object[] values = new Object[of.size()];
    for (int i = 0; i < values.length; i++) {
      values[i] = read(in);
    }
    return Row.of(new Type.Struct(of), values);
  }

  private TextRow textRow(DataInputStream in) throws IOException {
    List<String> of = names.get(in.readInt());
    String[] values = new String[of.size()];
    for (int i = 0; i < values.length; i++) {
      int length = in.readInt();
      values[i] = length < 0 ? null : new String(in.readNBytes(length), StandardCharsets.UTF_8);
    }
    return new TextRow(of, values);
  }
}
