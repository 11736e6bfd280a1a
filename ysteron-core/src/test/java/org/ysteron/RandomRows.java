package org.ysteron;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/** Random values of any type, and a schema that has all types. */
public final class RandomRows {
  private final Random random;

  public RandomRows(long seed) {
    this.random = new Random(seed);
  }

  /** One column of every type, nested ones to the third level. */
  public static Schema everyType() {
    Type sensor =
        Types.struct(
            Field.of("kind", Types.text()),
            Field.of("depth", Types.DOUBLE).notNull(),
            Field.of("marks", Types.listOf(Types.INTEGER)));
    return Schema.of(
        Field.of("id", Types.BIGINT).notNull(),
        Field.of("a_boolean", Types.BOOLEAN),
        Field.of("an_integer", Types.INTEGER),
        Field.of("a_real", Types.REAL),
        Field.of("a_double", Types.DOUBLE),
        Field.of("a_decimal", Types.decimal(9, 2)),
        Field.of("a_wide_decimal", Types.decimal(38, 10)),
        Field.of("a_date", Types.DATE),
        Field.of("a_time", Types.TIME),
        Field.of("a_timestamp", Types.TIMESTAMP),
        Field.of("an_instant", Types.INSTANT),
        Field.of("a_text", Types.text(40)),
        Field.of("a_binary", Types.BINARY),
        Field.of("a_uuid", Types.UUID),
        Field.of("a_json", Types.JSON),
        Field.of("a_list", Types.listOf(Types.text())),
        Field.of("a_map", Types.mapOf(Types.text(), Types.decimal(20, 3))),
        Field.of(
            "a_struct",
            Types.struct(
                Field.of("x", Types.INTEGER).notNull(),
                Field.of("inner", Types.struct(Field.of("y", Types.text()))))),
        Field.of("sensors", Types.listOf(sensor)),
        Field.of("matrix", Types.listOf(Types.listOf(Types.DOUBLE))));
  }

  /** A row whose first column is its number. */
  public Object[] row(Schema schema, long number) {
    Object[] values = new Object[schema.columns().size()];
    for (int i = 0; i < values.length; i++) {
      Field field = schema.columns().get(i);
      values[i] = field.name().equals("id") ? (Object) number : value(field);
    }
    return values;
  }

  /** A value of a field, or null where it may be. */
  public Object value(Field field) {
    if (!field.required() && random.nextInt(4) == 0) {
      return null;
    }
    return value(field.type());
  }

  /** A value of a type. */
  public Object value(Type type) {
    if (type instanceof Type.Decimal decimal) {
      BigInteger unscaled =
          new BigInteger(random.nextInt(decimal.precision() * 3) + 1, random)
              .mod(BigInteger.TEN.pow(decimal.precision()));
      return new BigDecimal(random.nextBoolean() ? unscaled : unscaled.negate(), decimal.scale());
    }
    if (type instanceof Type.Text) {
      return text(random.nextInt(12));
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      for (int i = random.nextInt(4); i > 0; i--) {
        elements.add(value(list.element()));
      }
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      for (int i = random.nextInt(3); i > 0; i--) {
        entries.put("k" + i, value(map.value()));
      }
      return entries;
    }
    if (type instanceof Type.Struct struct) {
      return Row.of(struct, struct.fields().stream().map(this::value).toArray());
    }
    return simple((Type.Simple) type);
  }

  private String text(int length) {
    StringBuilder text = new StringBuilder();
    for (int i = 0; i < length; i++) {
      text.appendCodePoint(
          random.nextInt(10) == 0 ? 0x1f300 + random.nextInt(100) : 'a' + random.nextInt(26));
    }
    return text.toString();
  }

  private Object simple(Type.Simple type) {
    return switch (type) {
      case BOOLEAN -> random.nextBoolean();
      case INTEGER -> random.nextInt(10) == 0 ? Integer.MIN_VALUE : random.nextInt(1000) - 500;
      case BIGINT -> random.nextLong();
      case REAL -> random.nextInt(20) == 0 ? Float.NaN : random.nextFloat() * 100 - 50;
      case DOUBLE -> random.nextInt(20) == 0 ? -0.0 : random.nextGaussian() * 1e6;
      case DATE -> LocalDate.ofEpochDay(random.nextInt(40_000) - 10_000);
      case TIME -> LocalTime.ofNanoOfDay(random.nextLong(86_400_000_000L) * 1000);
      case TIMESTAMP ->
          LocalDateTime.ofEpochSecond(
              random.nextLong(4_000_000_000L) - 1_000_000_000L,
              random.nextInt(1_000_000) * 1000,
              ZoneOffset.UTC);
      case INSTANT ->
          Instant.ofEpochSecond(
              random.nextLong(4_000_000_000L) - 1_000_000_000L, random.nextInt(1_000_000) * 1000L);
      case BINARY -> {
        byte[] bytes = new byte[random.nextInt(20)];
        random.nextBytes(bytes);
        yield bytes;
      }
      case UUID -> new UUID(random.nextLong(), random.nextLong());
      case JSON -> "{\"n\": " + random.nextInt(100) + ", \"t\": [true, null]}";
    };
  }
}
