package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.LayoutPlan;
import org.ysteron.proof.CheckDepth;
import org.ysteron.store.MemoryStore;

/**
 * Values of erased rows do not stay in layouts, checks, defaults and comments, also of columns that
 * the condition does not name; values that other rows have, too, are in nobody's way.
 */
class ErasedFormsTest {
  private static final String HER = "zz.quillivane.marr@example.org";

  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store);
  private final Table table =
      lake.createTable(
          "t.people",
          Schema.of(
                  Field.of("id", Types.INTEGER).notNull(),
                  Field.of("email", Types.text()),
                  Field.of("town", Types.text()),
                  Field.of("at", Types.BIGINT))
              .withKey("id"));

  @BeforeEach
  void fill() {
    try (Append append = table.append()) {
      for (int id = 0; id < 40; id++) {
        String email = id == 17 ? HER : "zz.m%02d@x".formatted(id);
        append.add(id, email, id % 2 == 0 ? "Orrin" : "Vell", (long) id);
      }
      append.commit();
    }
  }

  @AfterEach
  void close() {
    lake.close();
  }

  static Stream<Arguments> forms() {
    Map<String, UnaryOperator<Alter>> forms = new LinkedHashMap<>();
    forms.put(
        "a bound of layout 1",
        alter -> alter.layout(LayoutPlan.none().rangesAt("email", "f", HER)));
    forms.put(
        "a list of layout 1",
        alter ->
            alter.layout(LayoutPlan.none().groups("email", List.of(List.of(HER), List.of("x")))));
    forms.put(
        "check vip",
        alter ->
            alter.check("vip", column("email").notEqualTo("no").or(column("email").equalTo(HER))));
    forms.put("the default of column email", alter -> alter.setDefault("email", HER));
    forms.put("default of column email", alter -> alter.setDefault("email", Computed.later(HER)));
    forms.put(
        "the comment of column email", alter -> alter.comment("email", "such as " + HER + "."));
    return forms.entrySet().stream().map(form -> Arguments.of(form.getKey(), form.getValue()));
  }

  @ParameterizedTest(name = "{0}")
  @MethodSource("forms")
  void aValueThatNobodyElseHasIsNamedBeforeAnythingIsErased(
      String where, UnaryOperator<Alter> form) {
    form.apply(table.alter()).run();
    assertThatThrownBy(() -> table.erase(column("id").equalTo(17)).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining(where);
    assertThat(table.erase(column("id").equalTo(18)).run().rows()).isEqualTo(1);
  }

  @Test
  void aValueThatOthersHaveIsInNobodysWay() {
    table
        .alter()
        .setDefault("town", "Vell")
        .check("towns", column("town").in(List.of("Orrin", "Vell")))
        .layout(LayoutPlan.none().groups("town", List.of(List.of("Orrin"), List.of("Vell"))))
        .run();
    assertThat(table.erase(column("id").equalTo(17)).run().rows()).isEqualTo(1);
    assertThat(Traces.of(store, "quillivane")).isEmpty();
  }

  @Test
  void aCurveHasNobodysValues() {
    table.alter().layout(LayoutPlan.none().along("email", "at")).run();
    assertThat(table.erase(column("id").equalTo(17)).run().rows()).isEqualTo(1);
    assertThat(table.erase(column("email").equalTo("zz.m00@x")).run().rows()).isEqualTo(1);
    for (String part : List.of("quillivane", "zz.quil", "m00@x")) {
      assertThat(Traces.of(store, part)).as(part).isEmpty();
    }
  }

  @Test
  void whereAColumnIsMissingItIsNullWhateverItsDefaultIsLater() {
    table
        .alter()
        .add(Field.of("site", Types.text()).withDefault("Head"), Place.LAST)
        .add(Field.of("deep", Types.struct(Field.of("x", Types.INTEGER))), Place.LAST)
        .run();
    table.alter().addIn("deep", Field.of("y", Types.INTEGER).withDefault(7), Place.LAST).run();
    Condition none = column("site").isNull().and(column("id").between(3, 4));
    Condition deep = column("deep.y").isNull().and(column("id").equalTo(5));
    assertThatThrownBy(() -> table.erase(none).run()).hasMessageContaining("without column site");
    assertThat(table.erase(none).takingMissingAsNull().dryRun().rows()).isEqualTo(2);
    assertThat(table.erase(none).takingMissingAsNull().run().rows()).isEqualTo(2);
    assertThat(table.erase(deep).takingMissingAsNull().run().rows()).isEqualTo(1);
    assertThatThrownBy(() -> table.erase(none).takingMissingAsNull().run())
        .isInstanceOf(NotFoundException.class);
    for (long version = 1; version <= table.now().version(); version++) {
      assertThat(table.at(version).scan().where(column("id").between(2, 6)).count()).isEqualTo(2);
      assertThat(table.at(version).scan().count()).isEqualTo(37);
    }
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
  }
}
