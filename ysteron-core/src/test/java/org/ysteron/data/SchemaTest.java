package org.ysteron.data;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.RandomRows;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.internal.text.NearNames;

class SchemaTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.BIGINT),
          Field.of(
              "health",
              Types.struct(
                  Field.of("battery", Types.INTEGER),
                  Field.of("inner", Types.struct(Field.of("a.b", Types.DATE))))),
          Field.of("tags", Types.listOf(Types.text())));

  @Test
  void everyFieldGetsAnIdForLife() {
    assertThat(SCHEMA.lastId()).isEqualTo(7);
    assertThat(SCHEMA.columns()).extracting(Field::id).containsExactly(1, 2, 3);
    assertThat(SCHEMA.field(4).orElseThrow().name()).isEqualTo("battery");
    assertThat(SCHEMA.field(99)).isEmpty();
  }

  @Test
  void pathsLeadToFieldsAtAnyDepth() {
    assertThat(SCHEMA.resolve("health.battery"))
        .extracting(Field::name)
        .containsExactly("health", "battery");
    assertThat(SCHEMA.resolve("health.inner.\"a.b\"")).hasSize(3);
    assertThat(Schema.path(List.of("x", "a.b", "q\"r"))).isEqualTo("x.\"a.b\".\"q\"\"r\"");
    assertThat(Schema.parsePath("x.\"a.b\".\"q\"\"r\"")).containsExactly("x", "a.b", "q\"r");
    assertThatThrownBy(() -> Schema.parsePath("\"x")).hasMessageContaining("open quote");
  }

  @Test
  void pathsThatLeadNowhereNameTheNearOnes() {
    assertThatThrownBy(() -> SCHEMA.resolve("helth"))
        .isInstanceOf(NotFoundException.class)
        .hasMessage("There is no column helth. Did you mean health?");
    assertThatThrownBy(() -> SCHEMA.resolve("health.batery"))
        .hasMessage("There is no column batery in health. Did you mean battery?");
    assertThatThrownBy(() -> SCHEMA.resolve("id.x")).hasMessageContaining("has no field x");
  }

  @Test
  void aSelectionKeepsIdsAndNarrowsStructs() {
    Schema selected = SCHEMA.select(List.of("health.inner", "id", "health.battery"));
    assertThat(selected.columns()).extracting(Field::id).containsExactly(2, 1);
    Type.Struct health = (Type.Struct) selected.columns().get(0).type();
    assertThat(health.fields()).extracting(Field::name).containsExactly("inner", "battery");
    assertThat(SCHEMA.select(List.of("health", "health.battery")).columns()).hasSize(1);
  }

  @Test
  void namesMustDifferAtEveryDepth() {
    assertThatThrownBy(() -> Schema.of(Field.of("a", Types.DATE), Field.of("a", Types.TIME)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Two columns have the name 'a'");
    assertThatThrownBy(
            () ->
                Schema.of(
                    Field.of(
                        "s", Types.struct(Field.of("x", Types.DATE), Field.of("x", Types.DATE)))))
        .hasMessageContaining("Two columns have the name 'x' in s");
    assertThatThrownBy(() -> Schema.of(Field.of("s", Types.struct())))
        .hasMessageContaining("ROW without fields");
    assertThatThrownBy(Schema::of).hasMessageContaining("at least one column");
  }

  @ParameterizedTest
  @ValueSource(strings = {"", "a\u0007b", "line\nbreak"})
  void hostileColumnNamesAreRefused(String name) {
    assertThatThrownBy(() -> Field.of(name, Types.DATE)).isInstanceOf(InvalidInputException.class);
  }

  @Test
  void aColumnNameHasALimit() {
    assertThatThrownBy(() -> Field.of("x".repeat(300), Types.DATE))
        .hasMessageContaining("300 characters is too long");
  }

  @Test
  void aKeyMakesItsColumnsNotNull() {
    Schema keyed = SCHEMA.withKey("id");
    assertThat(keyed.columns().get(0).required()).isTrue();
    assertThat(keyed.key()).containsExactly("id");
    assertThatThrownBy(() -> SCHEMA.withKey("ids")).hasMessageContaining("Did you mean id?");
    assertThatThrownBy(() -> SCHEMA.withKey("tags"))
        .hasMessageContaining("cannot be in a primary key");
    assertThatThrownBy(() -> SCHEMA.withKey("id", "id")).hasMessageContaining("twice");
  }

  @Test
  void aSchemaComesBackFromJson() {
    Schema all =
        Schema.of(
                Field.of("n", Types.decimal(7, 2))
                    .withDefault(new BigDecimal("1.5"))
                    .withComment("a comment"),
                Field.of("k", Types.text(5)).notNull())
            .withKey("k");
    for (Schema schema : List.of(SCHEMA, all, RandomRows.everyType())) {
      String json = Json.write(SchemaJson.toJson(schema));
      assertThat(SchemaJson.fromJson((Map<?, ?>) Json.parse(json))).isEqualTo(schema);
    }
  }

  @Test
  void aDefaultMustFitItsType() {
    assertThatThrownBy(() -> Field.of("n", Types.INTEGER).withDefault("x"))
        .hasMessageContaining("The default of column n does not fit: 'x' is a String");
  }

  @Test
  void rowsAreReadByNameAndCompareByValue() {
    Type.Struct struct =
        (Type.Struct) Types.struct(Field.of("a", Types.INTEGER), Field.of("b", Types.BINARY));
    Row one = Row.of(struct, 1, new byte[] {1, 2});
    Row two = Row.of(struct, 1, new byte[] {1, 2});
    assertThat(one).isEqualTo(two).hasSameHashCodeAs(two).hasToString("{a=1, b=[1, 2]}");
    assertThat(one.get("a")).isEqualTo(1);
    assertThatThrownBy(() -> one.get("c")).isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> Row.of(struct, 1)).isInstanceOf(InvalidInputException.class);
    assertThat(one.getInt("a")).isEqualTo(1);
    assertThat(one.getLong("a")).isEqualTo(1L);
    assertThatThrownBy(() -> one.getString("a")).hasMessageContaining("Use another getter");
  }

  @Test
  void nearNamesAreFoundBestFirst() {
    List<String> known = List.of("gauge_id", "gauges", "level_cm", "quality");
    assertThat(NearNames.near("gauge", known)).containsExactly("gauges");
    assertThat(NearNames.near("LEVEL_CM", known)).containsExactly("level_cm");
    assertThat(NearNames.near("zzz", known)).isEmpty();
    assertThat(NearNames.didYouMean("zzz", known)).isEmpty();
  }
}
