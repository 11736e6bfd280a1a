package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.drift.Drift;
import org.ysteron.drift.TextRow;
import org.ysteron.drift.WriteRules;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.store.MemoryStore;
import org.ysteron.table.TableSettings;

/** A table that grows by rows becomes the same whatever their order and form. */
class GrowthTest {
  private static final List<Type> FLOORS =
      List.of(
          Types.INTEGER,
          Types.BIGINT,
          Types.REAL,
          Types.DOUBLE,
          Types.decimal(6, 2),
          Types.text(4),
          Types.text(),
          Types.DATE,
          Types.TIMESTAMP,
          Types.BOOLEAN,
          Types.INSTANT);

  /** Values as JSON has them, some of a kind in each line. */
  private static final List<List<String>> VALUES =
      List.of(
          List.of("1", "22", "3000000000", "-7"),
          List.of("1", "2.5", "3000000000", "0.1", "7.25"),
          List.of("12345", "\"02134\"", "5"),
          List.of("true", "false", "null"),
          List.of("true", "1", "\"x\""),
          List.of("\"2026-03-01\"", "\"2026-03-01T12:30:00\"", "null"),
          List.of("\"2026-03-01\"", "\"n/a\""),
          List.of("\"2026-03-01T12:30:00Z\"", "\"2026-03-01T12:30:00+02:00\"", "null"),
          List.of("\"12:30\"", "\"12:30:05.25\""),
          List.of("9007199254740993", "0.5", "1", "123456789012345678901234567890"),
          List.of("0.1234567890123456789", "16777217", "4", "-0.0"),
          List.of("99999.99", "1234567.5", "0.001", "2"),
          List.of("\"a\"", "\"longer than four\"", "null"),
          List.of("12345678901234567890123456789012345678901234", "1"));

  /** Values that only JSON has. */
  private static final List<List<String>> NESTED =
      List.of(
          List.of("[]", "[1]", "null", "[2.5, null]", "[[]]"),
          List.of("{}", "{\"a\": 1}", "{\"b\": [], \"a\": 2.5}", "{\"b\": [true]}"),
          List.of(
              "{\"a\": {\"x\": 1}}", "{\"a\": {}}", "{\"c\": \"2026-03-01\", \"a\": {\"y\": 0}}"),
          List.of("1", "[1]", "{}", "\"t\""),
          List.of("[{\"a\": 1}, {}]", "[]", "[{\"b\": \"x\"}]"));

  private final MemoryStore store = new MemoryStore();

  /** What a load came to, for comparing. */
  private record Outcome(boolean refused, Map<String, String> columns, List<String> rows) {}

  private static Outcome load(
      Schema floor, Drift drift, boolean anyCase, List<String> json, List<Integer> csv) {
    try (Lake lake = Lake.create(new MemoryStore())) {
      Table table = lake.createTable("t.x", floor);
      WriteRules rules = WriteRules.STRICT.with(drift);
      try (Append append = table.append(own -> anyCase ? rules.inAnyCase() : rules)) {
        for (int i = 0; i < json.size(); i++) {
          Map<String, Object> members = object(json.get(i));
          if (csv.contains(i)) {
            append.addTexts(texts(members));
          } else {
            append.addObject(members);
          }
        }
        append.commit();
        assertThat(append.rows()).isEqualTo(json.size());
      } catch (InvalidInputException e) {
        assertThat(table.now().version()).isZero();
        return new Outcome(true, Map.of(), List.of());
      }
      assertThat(table.now().version()).isEqualTo(1);
      assertThat(table.now().files().size()).isLessThanOrEqualTo(2);
      Map<String, String> columns = new LinkedHashMap<>();
      table.schema().columns().forEach(c -> columns.put(c.name(), c.type().toString()));
      List<String> rows = new ArrayList<>();
      for (Row row : table.scan().rows()) {
        rows.add(row.toString());
      }
      Collections.sort(rows);
      return new Outcome(false, columns, rows);
    }
  }

  @SuppressWarnings("unchecked") // JSON objects have text for names
  private static Map<String, Object> object(String json) {
    return (Map<String, Object>) Json.parse(json);
  }

  /** The row as it would stand in CSV. */
  private static TextRow texts(Map<String, Object> members) {
    return new TextRow(
        List.copyOf(members.keySet()),
        members.values().stream()
            .map(value -> value == null ? null : value.toString())
            .toArray(String[]::new));
  }

  private static List<String> rows(Random random, List<List<String>> kinds, int columns) {
    List<List<String>> of = new ArrayList<>();
    for (int c = 0; c < columns; c++) {
      of.add(kinds.get(random.nextInt(kinds.size())));
    }
    List<String> rows = new ArrayList<>();
    for (int i = 0; i < 2 + random.nextInt(12); i++) {
      StringBuilder row = new StringBuilder("{\"id\": " + i);
      for (int c = 0; c < columns; c++) {
        String value = of.get(c).get(random.nextInt(of.get(c).size()));
        row.append(", \"x" + c + "\": " + value);
      }
      rows.add(row + "}");
    }
    return rows;
  }

  private static Schema floor(Random random, int columns) {
    List<Field> fields = new ArrayList<>(List.of(Field.of("id", Types.INTEGER)));
    for (int c = 0; c < columns; c++) {
      if (random.nextBoolean()) {
        fields.add(Field.of("x" + c, FLOORS.get(random.nextInt(FLOORS.size()))));
      }
    }
    return Schema.of(fields);
  }

  private static void sameInAnyOrder(
      Random random, Schema floor, List<String> rows, boolean somethingAsText) {
    Drift drift = random.nextBoolean() ? Drift.GROW : Drift.GROW_OR_SET_ASIDE;
    boolean anyCase = random.nextBoolean();
    Outcome first = load(floor, drift, anyCase, rows, List.of());
    for (int i = 0; i < 4; i++) {
      List<String> other = new ArrayList<>(rows);
      Collections.shuffle(other, random);
      List<Integer> csv = new ArrayList<>();
      for (int r = 0; somethingAsText && r < rows.size(); r++) {
        if (i == 0 || random.nextInt(3) == 0) {
          csv.add(r);
        }
      }
      assertThat(load(floor, drift, anyCase, other, csv))
          .as("%s of %s as texts, %s into %s", other, csv, drift, floor.struct())
          .isEqualTo(first);
    }
  }

  @Property(tries = 60)
  void anyOrderAndAnyFormMakeTheSameTable(@ForAll long seed) {
    Random random = new Random(seed);
    int columns = 1 + random.nextInt(3);
    sameInAnyOrder(random, floor(random, columns), rows(random, VALUES, columns), true);
  }

  @Property(tries = 40)
  void anyOrderOfNestedValuesMakesTheSameTable(@ForAll long seed) {
    Random random = new Random(seed);
    Schema floor =
        random.nextBoolean()
            ? floor(random, 2)
            : Schema.of(
                Field.of("id", Types.INTEGER),
                Field.of("x0", Types.struct(Field.of("a", Types.INTEGER).notNull())),
                Field.of("x1", Types.listOf(Types.INTEGER)));
    sameInAnyOrder(random, floor, rows(random, NESTED, 2), false);
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
    table.alter().set(TableSettings.MOST_COLUMNS, 2).run();
    try (Append append = growing()) {
      add(append, "{\"id\": 1, \"level\": 1, \"d\": 1, \"c\": 1}");
      assertThatThrownBy(() -> add(append, "{\"id\": 2, \"level\": 1, \"b\": 1}"))
          .hasMessageContaining("more new columns than a load may, 2")
          .hasMessageContaining("drift.most.columns");
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
    try (Append append = table.append(rules -> rules.with(Drift.GROW_OR_SET_ASIDE).leavingOut())) {
      add(append, "{\"id\": 1, \"level\": 1}", "{\"id\": 2, \"level\": \"high\"}");
      append.commit();
      assertThat(append.leftOut().rows()).isEqualTo(1);
    }
    assertThat(read()).hasSize(1);
  }

  @Test
  void namesThatDifferByCaseMeetByRuleAndAreTold() {
    try (Append append = table.append(rules -> rules.with(Drift.GROW).inAnyCase())) {
      add(append, "{\"ID\": 1, \"Level\": 1, \"wind\": 5, \"At\": {\"Lat\": 1}}");
      add(append, "{\"id\": 2, \"level\": 1, \"Wind\": 6.5, \"AT\": {\"lat\": 2}}");
      assertThatThrownBy(() -> add(append, "{\"id\": 3, \"level\": 1, \"x\": 1, \"X\": 2}"))
          .hasMessageContaining("x and X are one column, if their case does not count");
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
              "level and LEVEL differ by case only and are two columns, unless names of any case are to meet");
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
            5L,
            new byte[] {1, 2},
            new java.util.UUID(1, 2),
            java.time.LocalDate.of(2026, 3, 1),
            java.time.LocalTime.of(12, 30),
            java.time.LocalDateTime.of(2026, 3, 1, 12, 30),
            java.time.Instant.parse("2026-03-01T12:00:00.000001Z"),
            new java.math.BigDecimal("123456789012345678901234567.125"),
            Map.of("x", 0.1f),
            "{\"a\" : 1.50}",
            row(List.of(Field.of("x", Types.listOf(Types.BOOLEAN))), List.of(true, false)));
    try (Append append = growing()) {
      append.addRow(all);
      assertThatThrownBy(() -> append.addObject(Map.of("id", 2, "level", 1, "odd", new Object())))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("Object");
      assertThatThrownBy(() -> append.addObject(Map.of("id", 2, "level", 1, "odd", "half \ud800")))
          .hasMessageContaining("half of a character");
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
              target.add(texts);
            } else {
              target.add(object((String) row));
            }
          }
        });
  }

  private void fill() {
    try (Append append = table.append()) {
      append.add(1, 10, 0.5f).add(2, 20, null);
      append.commit();
    }
  }

  @Test
  void anUpsertGrowsTheTable() {
    fill();
    TextRow texts = new TextRow(List.of("id", "level", "gust"), new String[] {"3", "1", "8.25"});
    Merge merge =
        table
            .upsert(named("{\"id\": 2, \"level\": 2.5, \"gust\": 7}", texts))
            .rules(rules -> rules.with(Drift.GROW));
    merge.run();
    assertThat(merge.grown().columns().toString())
        .isEqualTo(
            "[widened column level from INTEGER to DOUBLE PRECISION, added column gust DOUBLE PRECISION]");
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=10.0, ratio=0.5, gust=null}",
            "{id=2, level=2.5, ratio=null, gust=7.0}",
            "{id=3, level=1.0, ratio=null, gust=8.25}");
    assertThat(table.now().version()).isEqualTo(2);
    assertThat(table.now().record().operation()).isEqualTo("grow + upsert");
  }

  @Test
  void columnsThatNoRowOfTheSourceHasKeepTheirValues() {
    fill();
    table.alter().set(TableSettings.DRIFT, "set_aside").run();
    table
        .upsert(named("{\"id\": 1, \"level\": 11, \"odd\": [1]}", "{\"id\": 2, \"level\": 21}"))
        .run();
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=11, ratio=0.5, leftovers={\"odd\":[1]}}",
            "{id=2, level=21, ratio=null, leftovers=null}");
    table.upsert(named("{\"id\": 1, \"level\": 12}")).run();
    assertThat(values("leftovers")).containsExactlyInAnyOrder("{\"odd\":[1]}", null);
    assertThatThrownBy(() -> table.upsert(named("{\"id\": 9}")).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("level");
    assertThatThrownBy(
            () ->
                table
                    .upsert(named("{\"id\": 1, \"odd\": 1}"))
                    .rules(rules -> rules.with(Drift.STRICT))
                    .run())
        .hasMessageContaining("Row 1: there is no column odd");
  }

  @Test
  void sourcesWithTypesGrowTablesToo() {
    fill();
    Row given =
        row(
            List.of(
                Field.of("id", Types.INTEGER),
                Field.of("level", Types.BIGINT),
                Field.of("seen", Types.DATE)),
            2,
            5_000_000_000L,
            java.time.LocalDate.of(2026, 3, 1));
    assertThatThrownBy(() -> table.upsert(MergeSource.rows(List.of(given))).run())
        .hasMessageContaining("level");
    table.alter().set(TableSettings.DRIFT, "grow").run();
    table.upsert(MergeSource.rows(List.of(given))).run();
    assertThat(values("level")).containsExactlyInAnyOrder(10L, 5_000_000_000L);
    Table copy = lake.createTable("t.copy", NUMBERED);
    copy.alter().set(TableSettings.DRIFT, "grow").run();
    copy.upsert(MergeSource.scan(table.scan())).run();
    assertThat(copy.schema().columns()).isEqualTo(table.schema().columns());
    assertThat(copy.scan().rows().toList()).isEqualTo(table.scan().rows().toList());
  }

  @Test
  void aMergeThatRunsAgainGrowsTheTableOfThen() {
    fill();
    List<Integer> reads = new ArrayList<>();
    MergeSource source =
        MergeSource.named(
            target -> {
              reads.add(1);
              target.add(object("{\"id\": 2, \"level\": 3000000000, \"gust\": 1}"));
              // Another widens, renames and changes the row between the reading and the merge.
              table.alter().widen("level", Types.decimal(19, 0)).rename("ratio", "share").run();
              table.update().set("share", 0.25f).run();
            });
    table.upsert(source).rules(rules -> rules.with(Drift.GROW)).run();
    assertThat(reads).hasSize(1);
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=10, share=0.25, gust=null}",
            "{id=2, level=3000000000, share=0.25, gust=1}");
  }

  @Test
  void aMergeInATransactionGrowsItOrLeavesNothing() {
    fill();
    try (Transaction transaction = lake.begin()) {
      TransactionTable inside = transaction.table("t.grown");
      assertThatThrownBy(
              () ->
                  inside
                      .upsert(
                          named("{\"id\": 1, \"level\": 1, \"x\": 1}", "{\"id\": 1, \"level\": 2}"))
                      .rules(rules -> rules.with(Drift.GROW))
                      .run())
          .isInstanceOf(InvalidInputException.class);
      assertThat(inside.schema().columns()).hasSize(3);
      inside
          .upsert(named("{\"id\": 1, \"level\": 1, \"x\": 1}"))
          .rules(rules -> rules.with(Drift.GROW))
          .run();
      inside
          .upsert(named("{\"id\": 1, \"level\": 1, \"x\": 1.5}"))
          .rules(rules -> rules.with(Drift.GROW))
          .run();
      transaction.commit();
    }
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=1, ratio=0.5, x=1.5}", "{id=2, level=20, ratio=null, x=null}");
  }
}
