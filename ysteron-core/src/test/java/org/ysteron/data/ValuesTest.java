package org.ysteron.data;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.RandomRows;
import org.ysteron.error.InvalidInputException;

class ValuesTest {
  static List<Arguments> wrongValues() {
    Type struct = Types.struct(Field.of("x", Types.INTEGER).notNull());
    return List.of(
        Arguments.of("1", Types.INTEGER, "'1' is a String, but INTEGER takes an Integer"),
        Arguments.of("1", Types.BIGINT, "'1' is a String, but BIGINT takes a Long"),
        Arguments.of(3_000_000_000L, Types.INTEGER, "3000000000 is out of the range of INTEGER"),
        Arguments.of(new BigDecimal("1e19"), Types.BIGINT, "is out of the range of BIGINT"),
        Arguments.of(1.5, Types.BIGINT, "1.5 (a Double) is not a number of type BIGINT"),
        Arguments.of(0.1, Types.decimal(5, 1), "more decimal places than the 1"),
        Arguments.of(0.1, Types.REAL, "0.1 (a Double) is not a number of type REAL"),
        Arguments.of(new BigDecimal("0.1"), Types.DOUBLE, "is not a number of type DOUBLE"),
        Arguments.of((1L << 53) + 1, Types.DOUBLE, "9007199254740993 (a Long) is not a number"),
        Arguments.of(16_777_217, Types.REAL, "16777217 (an Integer) is not a number of type REAL"),
        Arguments.of(Double.NaN, Types.INTEGER, "NaN (a Double) is not a number of type INTEGER"),
        Arguments.of(
            Double.POSITIVE_INFINITY, Types.decimal(5, 1), "not a number of type DECIMAL(5, 1)"),
        Arguments.of(new BigDecimal("1e999"), Types.DOUBLE, "1"),
        Arguments.of(
            new BigDecimal("1.25"), Types.decimal(5, 1), "has more decimal places than the 1"),
        Arguments.of(new BigDecimal("12345.6"), Types.decimal(5, 1), "is out of the range"),
        Arguments.of("abcd", Types.text(3), "'abcd' has 4 characters"),
        Arguments.of(LocalDate.MAX, Types.DATE, "is out of the range of DATE"),
        Arguments.of(LocalTime.of(1, 2, 3, 4), Types.TIME, "more precise than the microseconds"),
        Arguments.of(Instant.ofEpochSecond(1, 1), Types.INSTANT, "more precise"),
        Arguments.of(Instant.MAX.minusNanos(999_999_999), Types.INSTANT, "out of the range"),
        Arguments.of(LocalDateTime.MIN, Types.TIMESTAMP, "out of the range of TIMESTAMP"),
        Arguments.of("{", Types.JSON, "is not JSON"),
        Arguments.of("1 2", Types.JSON, "is more than one JSON value"),
        Arguments.of("", Types.JSON, "the JSON text is empty"),
        Arguments.of("x", Types.UUID, "'x' is a String, but UUID takes a UUID"),
        Arguments.of(List.of("x"), Types.listOf(Types.INTEGER), "'x' is a String"),
        Arguments.of(Map.of(1, 1), Types.mapOf(Types.text(), Types.INTEGER), "1 is an Integer"),
        Arguments.of(7, struct, "7 is an Integer, but ROW(x INTEGER NOT NULL) takes a Row"));
  }

  @ParameterizedTest
  @MethodSource("wrongValues")
  void whatDoesNotFitIsRefused(Object value, Type type, String message) {
    assertThatThrownBy(() -> Values.accept(value, type))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining(message);
  }

  static List<Arguments> exactNumbers() {
    return List.of(
        Arguments.of(1, Types.BIGINT, 1L),
        Arguments.of((byte) 1, Types.INTEGER, 1),
        Arguments.of((short) -7, Types.decimal(5, 1), new BigDecimal("-7.0")),
        Arguments.of(Long.MIN_VALUE, Types.decimal(38, 0), new BigDecimal(Long.MIN_VALUE)),
        Arguments.of(2_147_483_647L, Types.INTEGER, Integer.MAX_VALUE),
        Arguments.of(new BigDecimal("12.000"), Types.INTEGER, 12),
        Arguments.of(new java.math.BigInteger("12"), Types.BIGINT, 12L),
        Arguments.of(1.5f, Types.DOUBLE, 1.5),
        Arguments.of(Float.NaN, Types.DOUBLE, Double.NaN),
        Arguments.of(-0.0f, Types.DOUBLE, -0.0),
        Arguments.of(1.5, Types.REAL, 1.5f),
        Arguments.of(Double.NEGATIVE_INFINITY, Types.REAL, Float.NEGATIVE_INFINITY),
        Arguments.of(3, Types.REAL, 3f),
        Arguments.of(1L << 60, Types.DOUBLE, 0x1p60),
        Arguments.of(0.5, Types.decimal(3, 1), new BigDecimal("0.5")),
        Arguments.of(4.0, Types.BIGINT, 4L));
  }

  @ParameterizedTest
  @MethodSource("exactNumbers")
  void aNumberIsTakenWhereverItIsExact(Object given, Type type, Object held) {
    assertThat(Values.accept(given, type)).isEqualTo(held);
  }

  @Test
  void aDecimalTakesTheScaleOfItsType() {
    assertThat(Values.accept(new BigDecimal("1.5"), Types.decimal(9, 3)))
        .isEqualTo(new BigDecimal("1.500"));
    assertThat(Values.accept(new BigDecimal("1E+2"), Types.decimal(9, 3)))
        .isEqualTo(new BigDecimal("100.000"));
  }

  @Test
  void charactersAreCountedAsPeopleDo() {
    assertThat(Values.accept("\ud83d\ude00\ud83d\ude00", Types.text(2))).isNotNull();
  }

  @Test
  void nullInsideANestedValueIsRefusedWhereItMustNotBe() {
    Type.Struct struct = (Type.Struct) Types.struct(Field.of("x", Types.INTEGER).notNull());
    assertThatThrownBy(() -> Values.accept(Row.of(struct, (Object) null), struct))
        .hasMessageContaining("null, but x is NOT NULL");
    assertThatThrownBy(() -> Values.acceptField(null, Field.of("y", Types.DATE).notNull()))
        .hasMessageContaining("null, but y is NOT NULL");
    assertThat(Values.acceptField(null, Field.of("y", Types.DATE))).isNull();
  }

  @Property(tries = 200)
  void physicalFormsComeBack(@ForAll long seed) {
    Schema schema = RandomRows.everyType();
    Object[] row = new RandomRows(seed).row(schema, seed);
    for (int c = 0; c < row.length; c++) {
      Type type = schema.columns().get(c).type();
      Object value = row[c];
      if (value == null || type.isNested()) {
        continue;
      }
      switch (type.physical()) {
        case INT, LONG, BOOLEAN ->
            assertThat(Values.fromLong(Values.toLong(value, type), type)).isEqualTo(value);
        case BYTES -> {
          byte[] bytes = Values.toBytes(value, type);
          assertThat(Values.fromBytes(bytes, 0, bytes.length, type)).isEqualTo(value);
        }
        default -> assertThat(value).isInstanceOf(Number.class);
      }
    }
  }

  @Property(tries = 300)
  void longDecimalsOrderAsTheirBytes(@ForAll long seed) {
    Random random = new Random(seed);
    BigInteger one = new BigInteger(random.nextInt(127), random);
    BigInteger two = new BigInteger(random.nextInt(127), random);
    one = random.nextBoolean() ? one.negate() : one;
    two = random.nextBoolean() ? two.negate() : two;
    int order = Arrays.compareUnsigned(Values.orderedDecimal(one), Values.orderedDecimal(two));
    assertThat(Integer.signum(order)).isEqualTo(one.compareTo(two));
  }

  @Property(tries = 200)
  void instantsAreMicrosecondsAndBack(@ForAll long micros) {
    assertThat(Values.micros(Values.instant(micros))).isEqualTo(micros);
  }

  @Test
  void aTimeBetweenTwoMicrosecondsIsTheEarlierOne() {
    assertThat(Values.floorMicros(Instant.ofEpochSecond(-1, 999_999_999))).isEqualTo(-1);
    assertThat(Values.floorMicros(Instant.ofEpochSecond(1, 1_999))).isEqualTo(1_000_001);
    assertThat(Values.floorMicros(Instant.MAX)).isPositive();
    assertThat(Values.floorMicros(Instant.MIN)).isNegative();
  }

  @Test
  void messagesStayShortAndReadable() {
    assertThat(Values.quote("a\u0000b\n")).isEqualTo("'a\\u0000b\\u000a'");
    assertThat(Values.quote("x".repeat(100))).hasSize(63).endsWith("…'");
    assertThat(Values.show(new byte[] {1, (byte) 0xff})).isEqualTo("X'01ff'");
    assertThat(Values.show(new BigDecimal("1E+5"))).isEqualTo("100000");
    assertThat(Values.literal("it's")).isEqualTo("'it''s'");
    assertThat(Values.literal(LocalDate.of(2026, 3, 1))).isEqualTo("DATE '2026-03-01'");
    assertThat(Values.literal(new byte[] {10})).isEqualTo("X'0a'");
  }

  @ParameterizedTest
  @CsvSource({
    "true, BOOLEAN, true",
    "-17, INTEGER, -17",
    "2026-03-01T12:00:00+01:00, TIMESTAMP WITH TIME ZONE, 2026-03-01T11:00:00Z",
    "2026-03-01 12:00:00, TIMESTAMP, 2026-03-01T12:00",
    "12:30, TIME, 12:30",
    "NaN, DOUBLE PRECISION, NaN",
    "-Infinity, REAL, -Infinity",
    "1e3, REAL, 1000.0",
    "0e2adf00-0000-4000-8000-000000000000, UUID, 0e2adf00-0000-4000-8000-000000000000",
    "7, VARCHAR(3), 7"
  })
  void textIsParsedStrictly(String text, String type, String shown) {
    assertThat(ValueText.parse(text, Types.parse(type))).hasToString(shown);
  }

  @ParameterizedTest
  @CsvSource({
    "yes, BOOLEAN",
    "1.0, INTEGER",
    "99999999999, INTEGER",
    "0x10, BIGINT",
    "1e400, DOUBLE PRECISION",
    "1e40, REAL",
    "31/13, DATE",
    "2026-02-30, DATE",
    "25:00, TIME",
    "2026-03-01T12:00:00, TIMESTAMP WITH TIME ZONE",
    "12x, VARBINARY",
    "0e2adf00, UUID",
    "ERR, 'DECIMAL(5, 1)'"
  })
  void textThatIsNoValueIsRefused(String text, String type) {
    assertThatThrownBy(() -> ValueText.parse(text, Types.parse(type)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessage("'%s' is not a value of %s".formatted(text, Types.parse(type)));
  }

  @Test
  void typesAreParsedFromTheirNames() {
    for (Field column : RandomRows.everyType().columns()) {
      if (!column.type().isNested()) {
        assertThat(Types.parse(column.type().toString())).isEqualTo(column.type());
      }
    }
    assertThatThrownBy(() -> Types.parse("DECIMAL(x)")).hasMessageContaining("There is no type");
    assertThatThrownBy(() -> Types.parse("BLOB")).hasMessageContaining("There is no type BLOB");
    assertThatThrownBy(() -> Types.decimal(39, 0)).hasMessageContaining("is not a type");
    assertThatThrownBy(() -> Types.text(0)).hasMessageContaining("holds nothing");
  }

  @Property(tries = 100)
  void valuesComeBackFromJson(@ForAll long seed) {
    Schema schema = RandomRows.everyType();
    Object[] row = new RandomRows(seed).row(schema, seed);
    for (int c = 0; c < row.length; c++) {
      Type type = schema.columns().get(c).type();
      if (row[c] == null || type == Types.JSON) {
        continue;
      }
      String json = Json.write(Json.toJson(row[c], type));
      Object back = Json.parseValue(json, type);
      assertThat(back).as("%s as %s", type, json).isEqualTo(row[c]);
    }
    UUID uuid = new UUID(seed, seed);
    assertThat(Json.parseValue(Json.write(uuid.toString()), Types.UUID)).isEqualTo(uuid);
  }

  @Test
  void jsonOfAnotherShapeIsRefused() {
    Type struct = Types.struct(Field.of("depth", Types.INTEGER));
    assertThatThrownBy(() -> Json.parseValue("{\"dept\": 1}", struct))
        .hasMessageContaining("field dept is not one of")
        .hasMessageContaining("Did you mean depth?");
    assertThatThrownBy(() -> Json.parseValue("[1]", struct)).hasMessageContaining("is not a value");
    assertThatThrownBy(() -> Json.parseValue("{}", Types.listOf(Types.DATE)))
        .hasMessageContaining("is not a value of DATE ARRAY");
    Type map = Types.mapOf(Types.INTEGER, Types.DATE);
    assertThatThrownBy(() -> Json.parseValue("[[1]]", map)).hasMessageContaining("array of pairs");
    assertThat(Json.parseValue("[[1, \"2026-03-01\"]]", map))
        .isEqualTo(Map.of(1, LocalDate.of(2026, 3, 1)));
    assertThatThrownBy(() -> Json.parse("[".repeat(300) + "]".repeat(300)))
        .isInstanceOf(InvalidInputException.class);
  }
}
