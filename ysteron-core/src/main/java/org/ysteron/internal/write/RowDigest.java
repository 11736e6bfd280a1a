package org.ysteron.internal.write;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.internal.bytes.Sha256;

/**
 * A SHA-256 of rows as they were given: of their number and, by the id of each column that has any
 * value, of its values with the numbers of their rows. So it stays the same when columns are
 * renamed, moved or widened, and when some are added of which nothing is given. For one thread.
 */
public final class RowDigest {
  private static final String KIND = "given:";

  private final Map<Integer, MessageDigest> columns = new TreeMap<>();
  private long rows;

  /** Whether two digests tell rows apart; one of another kind says nothing. */
  public static boolean differ(String one, String other) {
    return one.startsWith(KIND) && other.startsWith(KIND) && !one.equals(other);
  }

  /** Adds a row: some fields and what was given for each, null included. */
  public void add(List<Field> fields, Object[] values) {
    rows++;
    for (int c = 0; c < values.length; c++) {
      if (values[c] != null) {
        Field field = fields.get(c);
        byte[] bytes = bytes(values[c], field.type());
        MessageDigest column = columns.computeIfAbsent(field.id(), id -> Sha256.digest());
        column.update(
            ByteBuffer.allocate(Long.BYTES + Integer.BYTES)
                .putLong(rows)
                .putInt(bytes.length)
                .flip());
        column.update(bytes);
      }
    }
  }

  private static byte[] bytes(Object value, Type type) {
    if (value == null) {
      return new byte[0];
    }
    if (value instanceof byte[] bytes) {
      return parts('b', List.of(bytes));
    }
    if (value instanceof Number number) {
      return text('n', number(number));
    }
    if (value instanceof List<?> elements && type instanceof Type.ListOf list) {
      List<byte[]> parts = new ArrayList<>();
      elements.forEach(element -> parts.add(bytes(element, list.element().type())));
      return parts('l', parts);
    }
    if (value instanceof Map<?, ?> entries && type instanceof Type.MapOf map) {
      List<byte[]> parts = new ArrayList<>();
      entries.forEach(
          (key, mapped) ->
              parts.add(
                  parts(
                      'e',
                      List.of(bytes(key, map.key().type()), bytes(mapped, map.value().type())))));
      parts.sort(Arrays::compareUnsigned);
      return parts('m', parts);
    }
    if (value instanceof Row row && type instanceof Type.Struct struct) {
      Map<Integer, byte[]> byId = new TreeMap<>();
      for (int i = 0; i < row.fields().size(); i++) {
        int at = struct.indexOf(row.fields().get(i).name());
        if (at >= 0 && row.get(i) != null) {
          Field field = struct.fields().get(at);
          byId.put(field.id(), bytes(row.get(i), field.type()));
        }
      }
      List<byte[]> parts = new ArrayList<>();
      byId.forEach(
          (id, part) -> parts.add(parts('f', List.of(text('i', Integer.toString(id)), part))));
      return parts('r', parts);
    }
    return text('t', value.toString());
  }

  /** The same text for the same number, whatever class it has. */
  private static String number(Number number) {
    if (number instanceof Double || number instanceof Float) {
      double value = number.doubleValue();
      if (!Double.isFinite(value) || (value == 0 && Double.doubleToRawLongBits(value) != 0)) {
        return Double.toString(value);
      }
      return plain(new BigDecimal(value));
    }
    if (number instanceof BigDecimal decimal) {
      return plain(decimal);
    }
    return plain(
        number instanceof BigInteger big
            ? new BigDecimal(big)
            : BigDecimal.valueOf(number.longValue()));
  }

  private static String plain(BigDecimal number) {
    BigDecimal least = number.signum() == 0 ? BigDecimal.ZERO : number.stripTrailingZeros();
    return least.unscaledValue() + "e" + -(long) least.scale();
  }

  private static byte[] text(char kind, String text) {
    return parts(kind, List.of(text.getBytes(StandardCharsets.UTF_8)));
  }

  private static byte[] parts(char kind, List<byte[]> parts) {
    int length = 1;
    for (byte[] part : parts) {
      length += Integer.BYTES + part.length;
    }
    ByteBuffer bytes = ByteBuffer.allocate(length).put((byte) kind);
    parts.forEach(part -> bytes.putInt(part.length).put(part));
    return bytes.array();
  }

  public String toText() {
    MessageDigest all = Sha256.digest();
    all.update(ByteBuffer.allocate(Long.BYTES).putLong(rows).flip());
    columns.forEach(
        (id, column) -> {
          all.update(ByteBuffer.allocate(Integer.BYTES).putInt(id).flip());
          all.update(column.digest());
        });
    return KIND + HexFormat.of().formatHex(all.digest());
  }
}
