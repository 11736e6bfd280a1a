package org.ysteron.sql.text;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.UUID;
import java.util.stream.IntStream;
import org.apache.calcite.sql.parser.SqlParser;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.text.SqlNames;
import org.ysteron.option.Check;
import org.ysteron.sql.grammar.LakeSqlParser;

/** What is printed of conditions, checks and schemas is SQL that is read as the same. */
class ConditionTextTest {
  private static final List<String> TEXTS =
      List.of(
          "",
          "a",
          "it's",
          "50%",
          "_x",
          "!%",
          "line\nfeed\t",
          "grün€",
          "\ud83d\ude00",
          "\u202e\"",
          "\\");

  private static final Schema SCHEMA =
      Schema.of(
          Field.of("day", Types.INTEGER),
          Field.of("value", Types.BIGINT),
          Field.of("odd name", Types.decimal(9, 2)),
          Field.of("a\"b", Types.REAL),
          Field.of("x.y", Types.DOUBLE),
          Field.of("Date", Types.DATE),
          Field.of("time", Types.TIME),
          Field.of("1st", Types.TIMESTAMP),
          Field.of("größe", Types.INSTANT),
          Field.of("order", Types.text()),
          Field.of("ok", Types.BOOLEAN),
          Field.of("u", Types.UUID),
          Field.of("raw", Types.BINARY),
          Field.of("wide", Types.decimal(38, 10)),
          Field.of(
              "group",
              Types.struct(Field.of("level.cm", Types.INTEGER), Field.of("select", Types.text()))));

  private static List<String> paths() {
    List<String> paths = new ArrayList<>();
    for (Field column : SCHEMA.columns()) {
      if (column.type() instanceof Type.Struct struct) {
        struct.fields().forEach(f -> paths.add(Schema.path(List.of(column.name(), f.name()))));
      } else {
        paths.add(Schema.path(List.of(column.name())));
      }
    }
    return paths;
  }

  private static Object value(Type type, Random random) {
    if (type instanceof Type.Decimal decimal) {
      return BigDecimal.valueOf(random.nextInt(20) - 10, decimal.scale());
    }
    if (type instanceof Type.Text) {
      return TEXTS.get(random.nextInt(TEXTS.size()));
    }
    int some = random.nextInt(5) - 2;
    return switch ((Type.Simple) type) {
      case BOOLEAN -> random.nextBoolean();
      case INTEGER -> some == 2 ? Integer.MIN_VALUE : some;
      case BIGINT -> some == 2 ? Long.MIN_VALUE : (long) some;
      case REAL -> some == 2 ? Float.MAX_VALUE : some == 1 ? Float.NaN : some / 10f;
      case DOUBLE -> some == 2 ? 1e300 : some == 1 ? Double.NEGATIVE_INFINITY : some / 10.0;
      case DATE -> LocalDate.of(some == 2 ? 12345 : 2026, 3, 1 + (some & 3));
      case TIME -> LocalTime.of(12, some & 3, 0, (some & 1) * 1000);
      case TIMESTAMP -> LocalDateTime.of(2026, 3, 1, 12, 0, some & 3, (some & 1) * 1000);
      case INSTANT -> Instant.ofEpochSecond(some == 2 ? -99_999_999_999L : some, 1000);
      case UUID -> new UUID(0, some);
      case BINARY -> new byte[Math.abs(some)];
      case JSON -> "{}";
    };
  }

  private static Condition leaf(Random random) {
    String path = paths().get(random.nextInt(paths().size()));
    Type type = SCHEMA.find(path).type();
    Condition.Comparison[] all = Condition.Comparison.values();
    Condition.Comparison comparison = all[random.nextInt(all.length)];
    return switch (random.nextInt(7)) {
      case 0 -> Condition.column(path).isNull();
      case 1 ->
          Condition.column(path)
              .in(
                  new ArrayList<>(
                      IntStream.range(0, random.nextInt(4))
                          .mapToObj(i -> random.nextInt(9) == 0 ? null : value(type, random))
                          .toList()));
      case 2 -> new Condition.Compare(new Column(path), comparison, new Column(path));
      case 3 ->
          type instanceof Type.Text
              ? Condition.column(path).startsWith(TEXTS.get(random.nextInt(TEXTS.size())))
              : Condition.column(path).isNotNull();
      default -> new Condition.Compare(path, comparison, value(type, random));
    };
  }

  private static Condition condition(Random random, int depth) {
    if (depth == 0 || random.nextInt(3) == 0) {
      return leaf(random);
    }
    List<Condition> parts =
        IntStream.range(0, random.nextInt(4)).mapToObj(i -> condition(random, depth - 1)).toList();
    return switch (random.nextInt(3)) {
      case 0 -> new Condition.And(parts);
      case 1 -> new Condition.Or(parts);
      default -> condition(random, depth - 1).not();
    };
  }

  private static Batch batch(Random random) {
    List<Vector> vectors = new ArrayList<>();
    for (Field column : SCHEMA.columns()) {
      VectorBuilder builder = new VectorBuilder(column.type());
      for (int i = 0; i < 50; i++) {
        builder.add(random.nextInt(5) == 0 ? null : any(column.type(), random));
      }
      vectors.add(builder.build());
    }
    return new Batch(SCHEMA.struct(), 50, vectors);
  }

  private static Object any(Type type, Random random) {
    return type instanceof Type.Struct struct
        ? Row.of(struct, struct.fields().stream().map(f -> value(f.type(), random)).toArray())
        : value(type, random);
  }

  @Test
  void conditionsAreReadAsTheyArePrinted() {
    for (int seed = 0; seed < 1500; seed++) {
      isReadAsPrinted(new Random(seed));
    }
  }

  private static void isReadAsPrinted(Random random) {
    Condition condition = condition(random, 3);
    String text = condition.toString();
    Condition read = SqlCondition.parse(text, SCHEMA);
    assertThat(read).as(text).hasToString(read.toString());
    Batch batch = batch(random);
    assertThat(Filter.bind(read, SCHEMA).select(batch))
        .as(text)
        .containsExactly(Filter.bind(condition, SCHEMA).select(batch));
    assertThat(SqlCondition.parse(read.toString(), SCHEMA)).as(text).hasToString(read.toString());
  }

  @Test
  void schemasAndChecksAreReadAsTheyArePrinted() {
    Schema schema =
        Schema.of(
                Field.of("order", Types.text(5)).notNull().withDefault("it's"),
                Field.of("a\"b", Types.decimal(5, 2)).withDefault(new BigDecimal("-1.50")),
                Field.of("at", Types.INSTANT).withDefault(Instant.EPOCH),
                Field.of("x.y", Types.struct(Field.of("select", Types.listOf(Types.REAL)))))
            .withKey("order");
    assertThat(SqlColumns.parse(schema.toString())).isEqualTo(schema);
    Check check = new Check("my check", Condition.column("\"x.y\"").isNotNull());
    assertThat(check).hasToString("CONSTRAINT \"my check\" CHECK (NOT (\"x.y\" IS NULL))");
  }

  @Test
  void everyWordThatTheParserReservesIsQuoted() {
    var words =
        SqlParser.create("", SqlParser.config().withParserFactory(LakeSqlParser.FACTORY))
            .getMetadata();
    assertThat(words.getTokens().stream().filter(words::isReservedWord))
        .hasSizeGreaterThan(300)
        .allSatisfy(word -> assertThat(SqlNames.of(word)).startsWith("\""));
    assertThat(SqlNames.of("level_cm")).isEqualTo("level_cm");
    assertThat(SqlNames.of("Day")).isEqualTo("\"Day\"");
  }

  @Test
  @Timeout(20)
  void longAndDeepConditionsAreReadOrRefusedAtOnce() {
    String many =
        String.join(
            " OR ",
            IntStream.range(0, 3000).mapToObj(i -> "u = '" + new UUID(0, i) + "'").toList());
    Condition condition = SqlCondition.parse(many, SCHEMA);
    assertThat(((Condition.Or) condition).conditions()).hasSize(3000);
    for (String deep :
        List.of(
            "(".repeat(100_000) + "ok" + ")".repeat(100_000),
            "NOT ".repeat(100_000) + "ok",
            "\"day\" = " + "- ".repeat(100_000) + "1",
            "(".repeat(100_000),
            "\"day\" IN (" + "1, ".repeat(400_000) + "2)")) {
      assertThatThrownBy(() -> SqlCondition.parse(deep, SCHEMA))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageMatching("(?s).{10,600}");
    }
    for (String giant : List.of("1e999999999", "1e-999999999", "9".repeat(500_000))) {
      assertThatThrownBy(() -> SqlCondition.parse("\"day\" = " + giant, SCHEMA))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageMatching("(?s).{10,900}");
      assertThatThrownBy(
              () ->
                  SqlValues.assignments(
                      "\"value\" = \"value\" * " + giant, SCHEMA, java.util.Optional.empty()))
          .isInstanceOf(InvalidInputException.class);
    }
    String sum = "\"value\" = \"value\"" + " + 1".repeat(100_000);
    assertThatThrownBy(() -> SqlValues.assignments(sum, SCHEMA, java.util.Optional.empty()))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("more than 20000 operators");
  }
}
