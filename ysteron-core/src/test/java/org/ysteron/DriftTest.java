package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.option.Drift;
import org.ysteron.option.Lift;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.report.LeftoverKey;
import org.ysteron.report.LiftResult;
import org.ysteron.store.MemoryStore;

/** Rows that do not have the columns of their table. */
class DriftTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.INTEGER).notNull(),
          Field.of("quality", Types.text()).notNull().withDefault("raw"),
          Field.of("level", Types.INTEGER),
          Field.of("health", Types.struct(Field.of("battery", Types.INTEGER))),
          Field.of("marks", Types.listOf(Types.struct(Field.of("x", Types.INTEGER)))));

  private final Lake lake = Lake.create(new MemoryStore());
  private Table table;

  @BeforeEach
  void makeTable() {
    table = lake.createTable("t.x", SCHEMA);
    write(WriteRules.STRICT.drift(), "{\"id\": 1, \"level\": 10}");
  }

  @AfterEach
  void close() {
    lake.close();
  }

  @SuppressWarnings("unchecked") // JSON objects have text for names
  private void write(UnaryOperator<WriteRules> rules, String... rows) {
    try (Append append = table.append(rules)) {
      for (String row : rows) {
        append.addObject((Map<String, Object>) Json.parse(row));
      }
      append.commit();
    }
  }

  private void write(Drift drift, String... rows) {
    write(rules -> rules.with(drift), rows);
  }

  private List<Object> values(String path) {
    List<Object> values = new ArrayList<>();
    for (Row row : table.scan().columns(path).rows()) {
      values.add(row.get(0) instanceof Row inner ? List.of(inner.values()) : row.get(0));
    }
    return values;
  }

  private void refused(Drift drift, String row, String... why) {
    long version = table.now().version();
    assertThatThrownBy(() -> write(drift, row))
        .isInstanceOf(InvalidInputException.class)
        .satisfies(e -> assertThat(e.getMessage()).contains(why).contains("Nothing was changed"));
    assertThat(table.now().version()).isEqualTo(version);
  }

  @Test
  void strictTellsEveryDifferenceAtOnce() {
    refused(
        Drift.STRICT,
        "{\"lvel\": 1, \"health\": {\"batery\": 5}, \"level\": \"high\", \"quality\": null}",
        "Row 1",
        "there is no column lvel (did you mean level?)",
        "there is no column health.batery (did you mean battery?)",
        "column level (INTEGER): 'high' is not a value of INTEGER",
        "column id is missing, but it is NOT NULL and has no default",
        "column quality is null, but NOT NULL");
  }

  @Test
  void lenientGivesTheDefaultForNull() {
    write(Drift.LENIENT, "{\"id\": 2, \"quality\": null}", "{\"id\": 3}");
    assertThat(values("quality")).containsExactly("raw", "raw", "raw");
    refused(Drift.LENIENT, "{\"quality\": \"good\"}", "column id is missing");
    refused(Drift.LENIENT, "{\"id\": 4, \"salinity\": 1}", "there is no column salinity");
  }

  @Test
  void aTableGrowsByWhatComes() {
    write(
        Drift.GROW,
        "{\"id\": 2, \"salinity\": 35, \"health\": {\"battery\": 5, \"signal\": 1.5}}",
        "{\"id\": 3, \"salinity\": 34.5, \"level\": 3000000000, \"nothing\": null, \"none\": []}",
        "{\"id\": 4, \"marks\": [{\"x\": 1, \"y\": true}, {}], \"tags\": [\"a\", null]}");
    assertThat(table.now().version()).isEqualTo(2);
    assertThat(table.now().record().operation()).isEqualTo("grow + append");
    assertThat(table.schema().struct())
        .hasToString(
            "ROW(id INTEGER NOT NULL, quality VARCHAR NOT NULL, level BIGINT,"
                + " health ROW(battery INTEGER, signal DOUBLE PRECISION),"
                + " marks ROW(x INTEGER, y BOOLEAN) ARRAY,"
                + " salinity DOUBLE PRECISION, tags VARCHAR ARRAY)");
    assertThat(values("salinity")).containsExactly(null, 35.0, 34.5, null);
    assertThat(values("level")).containsExactly(10L, null, 3_000_000_000L, null);
    assertThat(table.at(1).schema()).isEqualTo(SCHEMA);
    refused(
        Drift.GROW,
        "{\"id\": 5, \"salinity\": \"high\", \"level\": [1, \"a\"]}",
        "column salinity (DOUBLE PRECISION)",
        "column level (BIGINT): '[1,\"a\"]' is not a value of BIGINT");
  }

  @Test
  void rowsOfWiderTypesWidenColumns() {
    Schema wide =
        Schema.of(
            Field.of("id", Types.INTEGER),
            Field.of("level", Types.decimal(12, 2)),
            Field.of("seen", Types.DATE));
    try (Append append = table.append(rules -> rules.with(Drift.GROW))) {
      append.addRow(Row.of(wide.struct(), 2, new java.math.BigDecimal("1.25"), null));
      append.commit();
    }
    assertThat(table.schema().find("level").type()).isEqualTo(Types.decimal(12, 2));
    assertThat(table.schema().find("seen").type()).isEqualTo(Types.DATE);
    assertThat(values("level").toString()).isEqualTo("[10.00, 1.25]");
  }

  @Test
  void namesOfAnyCaseMeetOnRequest() {
    refused(Drift.STRICT, "{\"ID\": 2}", "there is no column ID");
    write(WriteRules::ignoringCase, "{\"ID\": 2, \"Health\": {\"BATTERY\": 7}}");
    assertThat(values("health.battery").get(1)).hasToString("[7]");
    assertThatThrownBy(() -> write(WriteRules::ignoringCase, "{\"ID\": 3, \"iD\": 4}"))
        .hasMessageContaining("ID and iD are both column id");
    table.alter().add(Field.of("LEVEL", Types.DATE)).run();
    assertThatThrownBy(() -> write(WriteRules::ignoringCase, "{\"id\": 3}"))
        .hasMessageContaining("columns level and LEVEL differ by case only");
  }

  @Test
  void theTablesOwnRulesHoldUnlessTheWriteHasOthers() {
    table
        .alter()
        .set(TableSettings.DRIFT, Drift.GROW.word())
        .set(TableSettings.IGNORE_CASE, true)
        .run();
    try (Append append = table.append()) {
      append.addObject(new LinkedHashMap<>(Map.of("Id", 2, "more", 5)));
      append.commit();
    }
    assertThat(values("more")).containsExactly(null, 5);
    assertThatThrownBy(() -> write(Drift.STRICT, "{\"id\": 3, \"other\": 5}"))
        .hasMessageContaining("there is no column other");
    assertThatThrownBy(() -> table.alter().set(TableSettings.DRIFT, 9).run())
        .hasMessageContaining("it must be one of strict, lenient, grow, set_aside");
  }

  private void setAside() {
    write(
        Drift.SET_ASIDE,
        "{\"id\": 2, \"salinity\": 35, \"health\": {\"battery\": 5, \"firmware\": \"2.1\"}}",
        "{\"id\": 3, \"salinity\": \"high\", \"marks\": [{\"x\": 1}, {\"z\": 2}]}");
    write(Drift.SET_ASIDE, "{\"id\": 4, \"salinity\": 34.5}", "{\"id\": 5}");
  }

  @Test
  void unknownFieldsAreSetAsideAsJson() {
    setAside();
    assertThat(table.now().page().form().leftoversColumn().map(Field::name)).contains("leftovers");
    assertThat(values("leftovers"))
        .containsExactly(
            null,
            "{\"salinity\":35,\"health\":{\"firmware\":\"2.1\"}}",
            "{\"salinity\":\"high\",\"marks\":[null,{\"z\":2}]}",
            "{\"salinity\":34.5}",
            null);
    assertThat(values("health.battery").get(1)).hasToString("[5]");
  }

  @Test
  void leftoversAreListed() {
    assertThatThrownBy(() -> table.leftovers())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("Table t.x has no leftovers column");
    setAside();
    List<LeftoverKey> keys = table.leftovers();
    assertThat(keys.get(0))
        .isEqualTo(
            new LeftoverKey(
                "salinity",
                3,
                Map.of("INTEGER", 1L, "DOUBLE PRECISION", 1L, "VARCHAR", 1L),
                2,
                List.of("35", "\"high\"", "34.5")));
    assertThat(keys.stream().map(LeftoverKey::path))
        .containsExactlyInAnyOrder("salinity", "health", "health.firmware", "marks");
  }

  @Test
  void leftoversAreLiftedAndWhatDoesNotFitStays() {
    setAside();
    LiftResult outcome =
        table.lift(
            List.of(
                new Lift("salinity", "salinity", Optional.of(Types.DOUBLE)),
                new Lift("health.firmware", "firmware", Optional.empty())));
    assertThat(outcome.write().report().rowsUpdated()).isEqualTo(2);
    assertThat(outcome.misfits())
        .isEqualTo(Map.of("salinity", new LiftResult.Misfits(1, List.of("\"high\""))));
    assertThat(values("salinity")).containsExactlyInAnyOrder(null, 35.0, null, 34.5, null);
    assertThat(values("firmware")).containsExactlyInAnyOrder(null, "2.1", null, null, null);
    assertThat(values("leftovers"))
        .containsExactlyInAnyOrder(
            null, null, "{\"salinity\":\"high\",\"marks\":[null,{\"z\":2}]}", null, null);
    assertThat(table.now().version()).isEqualTo(4);
    assertThat(table.leftovers().get(0).since()).isEqualTo(2);
    outcome = table.lift(List.of(new Lift("salinity", "said", Optional.empty())));
    assertThat(outcome.misfits()).isEmpty();
    assertThat(values("said")).containsExactlyInAnyOrder(null, null, "high", null, null);
    assertThatThrownBy(() -> table.lift(List.of(new Lift("markz", "m", Optional.empty()))))
        .hasMessageContaining("have no key markz. Did you mean marks?");
  }

  @Test
  void aLiftOfNothingChangesNothing() {
    setAside();
    long version = table.now().version();
    assertThatThrownBy(() -> table.lift(List.of(new Lift("none", "n", Optional.of(Types.INTEGER)))))
        .isInstanceOf(NotFoundException.class)
        .hasMessageEndingWith("have no key none. Nothing was changed.");
    assertThatThrownBy(
            () ->
                table.lift(
                    List.of(
                        new Lift("salinity", "s", Optional.of(Types.DOUBLE)),
                        new Lift("health.firmware", "f", Optional.of(Types.DATE)))))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("has 1 values, such as \"2.1\", of which none is a DATE");
    assertThat(table.now().version()).isEqualTo(version);
    assertThat(table.schema().columns()).noneMatch(column -> column.name().length() == 1);
  }

  @Test
  void aGivenLeftoversColumnIsUsed() {
    table.alter().add(Field.of("rest", Types.JSON)).leftovers("rest").run();
    write(Drift.SET_ASIDE, "{\"id\": 2, \"a\": 1, \"rest\": {\"b\": 2}}");
    assertThat(values("rest")).containsExactly(null, "{\"b\":2,\"a\":1}");
    assertThat(table.schema().columns()).hasSize(6);
    table.alter().rename("rest", "other").run();
    write(Drift.SET_ASIDE, "{\"id\": 3, \"a\": 1}");
    assertThat(values("other")).containsExactly(null, "{\"b\":2,\"a\":1}", "{\"a\":1}");
    table.alter().drop("other").run();
    assertThat(table.now().page().form().leftoversColumn()).isEmpty();
  }
}
