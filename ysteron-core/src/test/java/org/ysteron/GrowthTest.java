package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.expr.Condition;
import org.ysteron.option.Drift;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/** Loads by which a table grows. */
class GrowthTest {
  private final MemoryStore store = new MemoryStore();

  @SuppressWarnings("unchecked") // JSON objects have text for names
  private static Map<String, Object> object(String json) {
    return (Map<String, Object>) Json.parse(json);
  }

  private static final Schema NUMBERED =
      Schema.of(
              Field.of("id", Types.INTEGER).notNull(),
              Field.of("level", Types.INTEGER).notNull(),
              Field.of("ratio", Types.REAL))
          .withKey("id");

  private final Lake lake = Lake.create(store);
  private final Table table = lake.createTable("t.grown", NUMBERED);

  private Append growing() {
    return table.append(rules -> rules.with(Drift.GROW));
  }

  private static void add(Append append, String... rows) {
    for (String row : rows) {
      append.addObject(object(row));
    }
  }

  private List<String> read() {
    List<String> rows = new ArrayList<>();
    table.scan().rows().forEach(row -> rows.add(row.toString()));
    return rows;
  }

  private List<Object> values(String column) {
    List<Object> values = new ArrayList<>();
    table.scan().columns(column).rows().forEach(row -> values.add(row.get(0)));
    return values;
  }

  private static Row row(List<Field> fields, Object... values) {
    return Row.of(new Type.Struct(fields), values);
  }

  private String type(String column) {
    return table.schema().find(column).type().toString();
  }

  @Test
  void threeHundredNewKeysMakeTwoFiles() {
    try (Append append = growing()) {
      add(append, "{\"id\": -1, \"level\": 1}");
      for (int i = 0; i < 300; i++) {
        add(append, "{\"id\": %d, \"level\": 1, \"k%d\": %d}".formatted(i, i, i));
      }
      append.commit();
      assertThat(append.grown().columns()).hasSize(300);
    }
    assertThat(table.now().files()).hasSize(2);
    assertThat(table.now().schema().columns()).hasSize(303);
    assertThat(table.scan().where(Condition.column("k299").equalTo(299)).rows().toList())
        .hasSize(1);
    assertThat(table.now().record().operation()).isEqualTo("grow + append");
  }

  @Test
  void aColumnThatMustNotBeNullIsWidened() {
    try (Append append = growing()) {
      add(append, "{\"id\": 1, \"level\": 5}", "{\"id\": 2, \"level\": 3000000000}");
      assertThatThrownBy(() -> add(append, "{\"id\": 3, \"level\": null}"))
          .hasMessage("Row 3: column level is null, but NOT NULL. Nothing was changed.");
      append.add(4, 6, 0.5f);
      append.commit();
      assertThat(append.grown().columns().toString())
          .isEqualTo("[widened column level from INTEGER to BIGINT]");
    }
    assertThat(table.schema().toString()).contains("level BIGINT NOT NULL");
    assertThat(read())
        .containsExactly(
            "{id=1, level=5, ratio=null}",
            "{id=2, level=3000000000, ratio=null}",
            "{id=4, level=6, ratio=0.5}");
  }

  @Test
  void whatNoWideningHoldsIsRefusedAndTheOthersStay() {
    try (Append append = growing()) {
      add(append, "{\"id\": 1, \"level\": 0.5}");
      assertThatThrownBy(() -> add(append, "{\"id\": 2, \"level\": \"02134\", \"more\": 1}"))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("Row 2: column level (INTEGER): '02134' is not a value of INTEGER");
      assertThatThrownBy(
              () -> add(append, "{\"id\": 2, \"level\": 0.123456789012345678901234567890}"))
          .hasMessageContaining("0.123456789012345678901234567890");
      add(append, "{\"id\": 3, \"level\": 1, \"ratio\": 0.123456789}");
      append.commit();
    }
    assertThat(table.schema().columns()).hasSize(3);
    assertThat(type("level")).isEqualTo("DOUBLE PRECISION");
    assertThat(type("ratio")).isEqualTo("DOUBLE PRECISION");
    assertThatThrownBy(
            () -> load(NUMBERED, "{\"id\": 1, \"level\": 1, \"ratio\": 0.12345678901234567891}"))
        .hasMessageContaining(
            "'0.12345678901234567891' has more digits than DOUBLE PRECISION holds");
  }

  private void load(Schema ignored, String row) {
    try (Append append = growing()) {
      add(append, row);
      append.commit();
    }
  }

  @Test
  void checksHoldForRowsThatWait() {
    table.alter().check("sane", Condition.column("level").lessThan(100)).run();
    try (Append append = growing()) {
      add(append, "{\"id\": 1, \"level\": 5, \"more\": 1}");
      assertThatThrownBy(() -> add(append, "{\"id\": 2, \"level\": 3000000000}"))
          .hasMessageContaining("Row 2 (id = 2, level = 3000000000) breaks the check sane");
      assertThatThrownBy(() -> append.add(3, 100, null)).hasMessageContaining("Row 3 ");
      add(append, "{\"id\": 4, \"level\": 2.5}");
      append.commit();
    }
    assertThat(type("level")).isEqualTo("DOUBLE PRECISION");
    assertThat(read()).hasSize(2);
  }

  @Test
  void twoWhoWidenAlikeBothWinAlsoUnderANewName() {
    try (Append one = growing();
        Append two = growing();
        Append three = growing()) {
      add(one, "{\"id\": 1, \"level\": 3000000000}");
      add(two, "{\"id\": 2, \"level\": 4000000000, \"more\": 1}");
      add(three, "{\"id\": 3, \"level\": 5000000000}");
      one.commit();
      two.commit();
      table.alter().rename("level", "height").run();
      three.commit();
    }
    assertThat(type("height")).isEqualTo("BIGINT");
    assertThat(table.schema().columns()).hasSize(4);
    assertThat(values("height")).containsExactly(3_000_000_000L, 4_000_000_000L, 5_000_000_000L);
    table.alter().drop("more").run();
    try (Append late = growing()) {
      add(late, "{\"id\": 4, \"height\": 30000000000000000000}");
      table.alter().drop("height").run();
      assertThatThrownBy(late::commit).isInstanceOf(ConflictException.class);
    }
  }

  @Test
  void moreNewColumnsThanALoadMayBringAreRefusedOrSetAside() {
    table.alter().set(TableSettings.MAX_COLUMNS, 2).run();
    try (Append append = growing()) {
      add(append, "{\"id\": 1, \"level\": 1, \"d\": 1, \"c\": 1}");
      assertThatThrownBy(() -> add(append, "{\"id\": 2, \"level\": 1, \"b\": 1}"))
          .hasMessageContaining("add more than 2 new columns")
          .hasMessageContaining("drift.max.columns");
    }
    try (Append append = table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE))) {
      add(append, "{\"id\": 1, \"level\": 1, \"d\": 1, \"c\": 1}");
      add(append, "{\"id\": 2, \"level\": 1, \"b\": {\"x\": 1}, \"a\": [7]}");
      add(append, "{\"id\": 3, \"level\": \"high\", \"ratio\": 1e300}".replace("high", "7"));
      append.commit();
    }
    assertThat(table.schema().columns().stream().map(Field::name))
        .containsExactly("id", "level", "ratio", "a", "leftovers");
    assertThat(values("leftovers")).containsExactly("{\"d\":1,\"c\":1}", "{\"b\":{\"x\":1}}", null);
  }

  @Test
  void aRowWhoseValueIsSetAsideWhereNullIsNotAllowedIsRefusedOrLeftOut() {
    try (Append append = table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE))) {
      add(append, "{\"id\": 1, \"level\": 1}", "{\"id\": 2, \"level\": \"high\"}");
      assertThatThrownBy(append::commit)
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("Row 2: column level is null, but NOT NULL");
    }
    assertThat(table.now().version()).isZero();
    try (Append append =
        table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE).skippingRejected())) {
      add(append, "{\"id\": 1, \"level\": 1}", "{\"id\": 2, \"level\": \"high\"}");
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(1);
    }
    assertThat(read()).hasSize(1);
  }

  @Test
  void namesThatDifferByCaseMeetByRuleAndAreTold() {
    try (Append append = table.append(rules -> rules.with(Drift.GROW).ignoringCase())) {
      add(append, "{\"ID\": 1, \"Level\": 1, \"wind\": 5, \"At\": {\"Lat\": 1}}");
      add(append, "{\"id\": 2, \"level\": 1, \"Wind\": 6.5, \"AT\": {\"lat\": 2}}");
      assertThatThrownBy(() -> add(append, "{\"id\": 3, \"level\": 1, \"x\": 1, \"X\": 2}"))
          .hasMessageContaining("x and X are the same column when case is ignored");
      append.commit();
      assertThat(append.grown().words().toString()).contains("Wind and wind differ by case only");
    }
    assertThat(read().toString())
        .isEqualTo(
            "[{id=1, level=1, ratio=null, Wind=5.0, AT={Lat=1}}, {id=2, level=1, ratio=null, Wind=6.5, AT={Lat=2}}]");
    try (Append append = growing()) {
      add(append, "{\"id\": 4, \"level\": 1, \"LEVEL\": 5}");
      append.commit();
      assertThat(append.grown().words())
          .containsExactly(
              "level and LEVEL differ by case only and are two columns, unless case is ignored");
    }
  }

  @Test
  void aStreamGrowsWithEachFlush() {
    try (BufferedAppend stream =
        table.buffered(
            BufferedAppend.Limits.standard(), rules -> rules.with(Drift.GROW), gathered -> {})) {
      stream.addObject(object("{\"id\": 1, \"level\": 1, \"gust\": 5}"));
      stream.flush();
      assertThat(type("gust")).isEqualTo("INTEGER");
      stream.addRow(
          row(
              List.of(
                  Field.of("id", Types.INTEGER),
                  Field.of("level", Types.INTEGER),
                  Field.of("gust", Types.DOUBLE)),
              2,
              1,
              7.5));
      assertThatThrownBy(
              () -> stream.addObject(object("{\"id\": 3, \"level\": 1, \"gust\": \"x\"}")))
          .isInstanceOf(InvalidInputException.class);
    }
    assertThat(type("gust")).isEqualTo("DOUBLE PRECISION");
    assertThat(read()).hasSize(2);
  }

  @Test
  void valuesOfAllTypesWaitAsTheyAre() {
    Row all =
        row(
            List.of(
                Field.of("id", Types.INTEGER),
                Field.of("level", Types.BIGINT),
                Field.of("b", Types.BINARY),
                Field.of("u", Types.UUID),
                Field.of("d", Types.DATE),
                Field.of("t", Types.TIME),
                Field.of("ts", Types.TIMESTAMP),
                Field.of("i", Types.INSTANT),
                Field.of("n", Types.decimal(30, 3)),
                Field.of("m", Types.mapOf(Types.text(), Types.REAL)),
                Field.of("j", Types.JSON),
                Field.of("s", Types.struct(Field.of("x", Types.listOf(Types.BOOLEAN))))),
            1,
            5_000_000_000L,
            new byte[] {1, 2},
            new java.util.UUID(1, 2),
            java.time.LocalDate.of(2026, 3, 1),
            LocalTime.of(12, 30),
            LocalDateTime.of(2026, 3, 1, 12, 30),
            Instant.parse("2026-03-01T12:00:00.000001Z"),
            new BigDecimal("123456789012345678901234567.125"),
            Map.of("x", 0.1f),
            "{\"a\" : 1.50}",
            row(List.of(Field.of("x", Types.listOf(Types.BOOLEAN))), List.of(true, false)));
    try (Append append = growing()) {
      append.addRow(all);
      assertThatThrownBy(() -> append.addObject(Map.of("id", 2, "level", 1, "odd", new Object())))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("Object");
      assertThatThrownBy(() -> append.addObject(Map.of("id", 2, "level", 1, "odd", "half \ud800")))
          .hasMessageContaining("half of a surrogate pair");
      append.commit();
    }
    Row read = table.scan().rows().toList().get(0);
    for (int i = 0; i < all.fields().size(); i++) {
      String name = all.fields().get(i).name();
      assertThat(read.get(name)).as(name).isEqualTo(all.get(i));
    }
  }

  private static MergeSource named(Object... rows) {
    return MergeSource.named(
        target -> {
          for (Object row : rows) {
            if (row instanceof TextRow texts) {
              target.addText(texts);
            } else {
              target.addObject(object((String) row));
            }
          }
        });
  }

  private static String inObjects(int depth) {
    return "{\"a\": ".repeat(depth) + "1" + "}".repeat(depth);
  }

  @Test
  void whatNoColumnCanBeIsRefusedOrSetAside() {
    String deep = "{\"id\": 1, \"level\": 1, \"d\": %s}".formatted(inObjects(60));
    String named = "{\"id\": 2, \"level\": 1, \"\": 5, \"s\": {\"\": 6, \"ok\": 7}}";
    try (Append append = growing()) {
      assertThatThrownBy(() -> add(append, deep))
          .hasMessageContaining("column d cannot be added or become ROW(a ROW(a")
          .hasMessageContaining("nested more than 32 levels deep");
      assertThatThrownBy(() -> add(append, named))
          .hasMessageContaining("A column name is empty. Nothing was changed.");
    }
    try (Append append = table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE))) {
      add(append, deep, named);
      append.commit();
    }
    assertThat(values("leftovers"))
        .containsExactly(
            "{\"d\":%s}".formatted(inObjects(60).replace(" ", "")), "{\"\":5,\"s\":{\"\":6}}");
    assertThat(values("s").toString()).isEqualTo("[null, {ok=7}]");
  }

  @Test
  void aHundredThousandNamesTakeLittle() {
    table.alter().set(TableSettings.MAX_COLUMNS, 20).run();
    try (Append append = table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE))) {
      for (int i = 0; i < 20_000; i++) {
        add(append, "{\"id\": %d, \"level\": 1, \"k%d\": 1}".formatted(i, i * 7919 % 100_003));
      }
      append.commit();
    }
    assertThat(table.schema().columns()).hasSize(24);
    assertThat(table.scan().where(Condition.column("leftovers").isNull()).count()).isEqualTo(20);
  }

  @Test
  void valuesOfJavaMeetTheirTextsAndKeysAreWidened() {
    try (Append append = growing()) {
      append.addObject(Map.of("id", 1, "level", 1, "at", java.time.LocalDate.of(2026, 1, 1)));
      add(append, "{\"id\": 2, \"level\": 1, \"at\": \"2026-01-02T10:00:00\"}");
      add(append, "{\"id\": 3000000000, \"level\": 1}", "{\"id\": 2, \"level\": 1}");
      assertThatThrownBy(append::commit)
          .isInstanceOf(KeyExistsException.class)
          .hasMessageContaining("id = 2");
    }
    table.upsert(named("{\"id\": 2, \"level\": 1}")).run();
    table
        .upsert(named("{\"id\": 2.5, \"level\": 2}", "{\"id\": 2, \"level\": 3}"))
        .rules(rules -> rules.with(Drift.GROW))
        .run();
    assertThat(type("id")).isEqualTo("DOUBLE PRECISION");
    assertThat(values("level")).containsExactlyInAnyOrder(2, 3);
  }

  private static List<Object> loaded(Schema schema, Drift drift, String column, String... rows) {
    try (Lake lake = Lake.create(new MemoryStore())) {
      Table table = lake.createTable("t.x", schema);
      try (Append append = table.append(rules -> rules.with(drift))) {
        for (String row : rows) {
          append.addObject(object(row));
        }
        append.commit();
      }
      List<Object> values = new ArrayList<>();
      table.scan().columns(column).rows().forEach(row -> values.add(row.get(0)));
      return values;
    }
  }

  @Test
  void aNumberIsTheSameWhenItsColumnGrowsByALaterRow() {
    Schema real = Schema.of(Field.of("v", Types.REAL));
    String tenth = "{\"v\":0.1}";
    String longer = "{\"v\":0.123456789012}";
    assertThat(loaded(real, Drift.GROW, "v", tenth, longer)).containsExactly(0.1, 0.123456789012);
    assertThat(loaded(real, Drift.GROW, "v", longer, tenth)).containsExactly(0.123456789012, 0.1);
    assertThat(loaded(real, Drift.GROW, "v", tenth, "{\"v\":0.5}")).containsExactly(0.1f, 0.5f);
    Schema list = Schema.of(Field.of("v", Types.listOf(Types.REAL)));
    assertThat(loaded(list, Drift.GROW, "v", "{\"v\":[0.1,0.5]}", "{\"v\":[0.123456789012]}"))
        .containsExactly(List.of(0.1, 0.5), List.of(0.123456789012));
  }

  @Test
  void aNumberOfJsonBecomesTextAsJsonWritesIt() {
    Schema text = Schema.of(Field.of("v", Types.text()));
    assertThat(
            loaded(
                text,
                Drift.GROW,
                "v",
                "{\"v\":1e3}",
                "{\"v\":1.5E30}",
                "{\"v\":1.50}",
                "{\"v\":0.00000001}"))
        .containsExactly("1e3", "1.5e30", "1.50", "0.00000001");
  }

  @Test
  void aKeyNamedLikeTheColumnForTheRestIsKept() {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("rest", Types.JSON));
    try (Lake lake = Lake.create(new MemoryStore())) {
      Table table = lake.createTable("t.x", schema);
      table.alter().leftovers("rest").run();
      try (Append append = table.append(rules -> rules.with(Drift.SET_ASIDE))) {
        append.addObject(object("{\"k\":1,\"other\":5,\"rest\":\"hers\"}"));
        append.addObject(object("{\"k\":2,\"other\":5,\"rest\":{\"other\":6}}"));
        append.addObject(object("{\"k\":3,\"other\":5,\"rest\":{\"more\":6}}"));
        append.addObject(object("{\"k\":4,\"rest\":\"hers\"}"));
        append.commit();
      }
      List<Object> rest = new ArrayList<>();
      table.scan().rows().forEach(row -> rest.add(row.get("rest")));
      assertThat(rest)
          .containsExactly(
              "{\"rest\":\"hers\",\"other\":5}",
              "{\"rest\":{\"other\":6},\"other\":5}",
              "{\"more\":6,\"other\":5}",
              "\"hers\"");
    }
  }
}
