package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/** What the tool prints for programs, it loads again as the same; what it prints is visible. */
class RoundTripTest {
  private static final String HOSTILE = "\u001b[31mred\u009b0m\u202egnp\u2028\u0007\ufeff\r";

  private static final Type.Struct STRUCT =
      (Type.Struct) Types.struct(Field.of("x y", Types.INTEGER), Field.of("t", Types.text()));

  private static final Type BY_DATE = Types.mapOf(Types.DATE, Types.REAL);

  /** Of each type the values that are most easily lost. */
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.INTEGER).notNull(),
          Field.of("text", Types.text()),
          Field.of("a,b \"c\"", Types.text(20)),
          Field.of("truth", Types.BOOLEAN),
          Field.of("long", Types.BIGINT),
          Field.of("real", Types.REAL),
          Field.of("double", Types.DOUBLE),
          Field.of("decimal", Types.decimal(38, 10)),
          Field.of("date", Types.DATE),
          Field.of("time", Types.TIME),
          Field.of("timestamp", Types.TIMESTAMP),
          Field.of("instant", Types.INSTANT),
          Field.of("raw", Types.BINARY),
          Field.of("uuid", Types.UUID),
          Field.of("doc", Types.JSON),
          Field.of("list", Types.listOf(Types.text())),
          Field.of("map", Types.mapOf(Types.text(), Types.DOUBLE)),
          Field.of("by_date", BY_DATE),
          Field.of("struct", STRUCT));

  private static final List<List<Object>> VALUES =
      List.of(
          Arrays.asList("", null, "a\nb\tc\r\nd", "\"", " x ", HOSTILE, "null", "–", "\\n"),
          Arrays.asList(null, "", "'", "a,b"),
          Arrays.asList(true, false, null),
          Arrays.asList(Long.MIN_VALUE, Long.MAX_VALUE, null),
          Arrays.asList(Float.NaN, -0.0f, Float.MIN_VALUE, Float.NEGATIVE_INFINITY, 0.1f, null),
          Arrays.asList(-0.0, 0.0, Double.NaN, Double.MAX_VALUE, Double.POSITIVE_INFINITY, null),
          Arrays.asList(new BigDecimal("-9999999999999999999999999999.0000000001"), null),
          Arrays.asList(LocalDate.of(-5, 1, 1), LocalDate.of(12345, 1, 1), null),
          Arrays.asList(LocalTime.MIDNIGHT, LocalTime.of(23, 59, 59, 999_999_000), null),
          Arrays.asList(LocalDateTime.of(2026, 3, 1, 0, 0), LocalDateTime.of(-44, 3, 15, 9, 0, 1)),
          Arrays.asList(Instant.EPOCH, Instant.ofEpochSecond(-99_999_999_999L, 1000), null),
          Arrays.asList(new byte[0], new byte[] {0, -1}, null),
          Arrays.asList(new UUID(-1, 1), null),
          Arrays.asList("{\"a\":[1,-0.0,1.50,\"\\u001b\"],\"b\":{}}", "\"text\"", "[]", null),
          Arrays.asList(List.of("", HOSTILE), List.of(), Arrays.asList("x", null), null),
          Arrays.asList(Map.of("", -0.0), Map.of("k", Double.NaN), Map.of(), null),
          Arrays.asList(Map.of(LocalDate.EPOCH, 1.5f), Map.of(), null),
          Arrays.asList(Row.of(STRUCT, null, ""), Row.of(STRUCT, 1, null), null));

  private static final int DOC = 14;

  @TempDir Path directory;

  private Tool.Answer run(String... arguments) {
    return new Tool(lake()).on(arguments);
  }

  private Path lake() {
    return directory.resolve("lake");
  }

  private static Object[] row(int number) {
    Object[] row = new Object[SCHEMA.columns().size()];
    row[0] = number;
    for (int c = 1; c < row.length; c++) {
      List<Object> values = VALUES.get(c - 1);
      row[c] = values.get(number % values.size());
    }
    return row;
  }

  private void fill() {
    try (Lake made = Lake.create(lake());
        Append append = made.createTable("t.from", SCHEMA).append()) {
      IntStream.range(0, 60).forEach(i -> append.add(row(i)));
      append.commit();
      made.createTable("t.to", SCHEMA);
    }
  }

  private static List<String> told(Table table) {
    try (Results<Row> rows = table.scan().rows()) {
      return rows.stream().map(row -> told(row.values())).sorted().toList();
    }
  }

  /** JSON is told by what it means, not by how it is written. */
  private static String told(Object[] values) {
    if (values.length > DOC && values[DOC] instanceof String text) {
      values[DOC] = Json.parse(text);
    }
    return Arrays.deepToString(values);
  }

  @ParameterizedTest
  @CsvSource({"csv,strict", "csv,grow", "json,strict", "json,grow"})
  void everyTypeComesBack(String format, String drift) throws IOException {
    fill();
    Tool.Answer printed = run("scan", "t.from", "--format", format);
    assertThat(printed.code()).as(printed.err()).isZero();
    Path file = directory.resolve("rows." + format);
    Files.writeString(file, printed.out());
    Tool.Answer loaded = run("load", "t.to", file.toString(), "--drift", drift);
    assertThat(loaded.err()).isEmpty();
    assertThat(loaded.out()).startsWith("Appended 60 rows");
    try (Lake opened = Lake.open(lake())) {
      assertThat(opened.table("t.to").schema()).isEqualTo(opened.table("t.from").schema());
      assertThat(told(opened.table("t.to"))).isEqualTo(told(opened.table("t.from")));
    }
  }

  @Test
  void aColumnAloneKeepsItsNulls() throws IOException {
    try (Lake made = Lake.create(lake())) {
      Schema one = Schema.of(Field.of("t", Types.text()));
      made.createTable("t.to", one);
      try (Append append = made.createTable("t.from", one).append()) {
        Arrays.asList("a", null, "", null).forEach(value -> append.add(new Object[] {value}));
        append.commit();
      }
    }
    Path file = directory.resolve("rows.csv");
    Files.writeString(file, run("scan", "t.from", "--format", "csv").out());
    assertThat(run("load", "t.to", file.toString()).err()).isEmpty();
    try (Lake opened = Lake.open(lake())) {
      assertThat(told(opened.table("t.to"))).containsExactly("[]", "[a]", "[null]", "[null]");
    }
  }

  @Test
  void nothingThatIsPrintedForPeopleTellsTheTerminalAnything() {
    fill();
    try (Lake opened = Lake.open(lake())) {
      opened
          .table("t.from")
          .alter()
          .add(Field.of("gnp\u202e\ufeff\u2028", Types.INTEGER).withComment(HOSTILE))
          .check("c" + HOSTILE, column("text").notEqualTo(HOSTILE + HOSTILE))
          .run();
    }
    List<Tool.Answer> answers =
        List.of(
            run("scan", "t.from"),
            run("scan", "t.from", "--format", "json"),
            run("scan", "t." + HOSTILE),
            run("scan", "t.from", "--where", "text = '" + HOSTILE + "' AND nothing = 1"),
            run("delete", "t.from", "--where", "text = 'none'", "--note", HOSTILE),
            run("schema", "t.from"),
            run("schema", "t.from", "--format", "json"),
            run("alter", "t.from", "ADD more INTEGER", "--author", HOSTILE),
            run("history", "t.from"),
            run("explain", "t.from", "--where", "text = '" + HOSTILE + "'"),
            run("load", "t.from", HOSTILE + ".csv"),
            run(HOSTILE));
    answers.subList(4, 9).forEach(answer -> assertThat(answer.err()).isEmpty());
    for (Tool.Answer answer : answers) {
      String all = answer.out() + answer.err();
      assertThat(all).isNotEmpty();
      assertThat(all.codePoints().filter(c -> c != '\n').mapToObj(Character::toString))
          .as(all)
          .noneMatch(c -> c.matches("[\\p{Cc}\\p{Cf}\\p{Zl}\\p{Zp}]"));
    }
    assertThat(answers.get(5).out())
        .contains("gnp\\u202e\\ufeff\\u2028", "\\u001b[31mred\\u009b0m\\u202egnp");
  }
}
