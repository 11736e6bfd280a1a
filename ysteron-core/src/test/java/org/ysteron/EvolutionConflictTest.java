package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.Isolation;
import org.ysteron.option.LayoutPlan;
import org.ysteron.store.MemoryStore;

/**
 * What altering a table may meet, on either side. Table t.x has two files: keys 1 to 10, and 11 to
 * 20, each with value 100.
 */
class EvolutionConflictTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.INTEGER),
              Field.of("t", Types.text()))
          .withKey("k");

  private final MemoryStore store = new MemoryStore();
  private Lake opened;
  private LakeHandle lake;
  private Table other;

  @BeforeEach
  void makeTable() {
    opened = Lake.create(store);
    lake = opened.by("ada", "test");
    Table table = lake.createTable("t.x", SCHEMA);
    for (int from = 1; from <= 11; from += 10) {
      try (Append append = table.append()) {
        for (int k = from; k < from + 10; k++) {
          append.add(k, 100, "old");
        }
        append.commit();
      }
    }
    other = Lake.open(store).by("bert", "test").noting("meanwhile").table("t.x");
  }

  @AfterEach
  void close() {
    opened.close();
  }

  private Table table() {
    return lake.table("t.x");
  }

  private Map<Object, Map<String, Object>> rows() {
    Map<Object, Map<String, Object>> rows = new TreeMap<>();
    for (Row row : table().scan().rows()) {
      Map<String, Object> values = new LinkedHashMap<>();
      row.fields().forEach(field -> values.put(field.name(), row.get(field.name())));
      assertThat(rows.put(row.get("k"), values)).isNull();
    }
    return rows;
  }

  /** Begins, does something, lets somebody else do something, and commits. */
  private void race(Consumer<TransactionTable> mine, Runnable theirs) {
    try (Transaction work = lake.begin()) {
      mine.accept(work.table("t.x"));
      theirs.run();
      work.commit("mine");
    }
  }

  private void conflicts(String why, Consumer<TransactionTable> mine, Runnable theirs) {
    assertThatThrownBy(() -> race(mine, theirs))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("Table t.x")
        .hasMessageContaining("bert")
        .hasMessageContaining(why)
        .hasMessageContaining("Nothing was changed");
    assertThat(table().now().record().commit().author()).isEqualTo("bert");
  }

  private static Consumer<TransactionTable> altering(UnaryOperator<Alter> how) {
    return table -> how.apply(table.alter()).run();
  }

  private Runnable theyAlter(UnaryOperator<Alter> how) {
    return () -> how.apply(other.alter()).run();
  }

  private void theyAppend(Object... row) {
    try (Append append = other.append()) {
      append.add(row);
      append.commit();
    }
  }

  @Test
  void anAppendAndALaterColumnBothStand() {
    race(
        table -> table.add(50, 1, "new"),
        theyAlter(
            alter ->
                alter
                    .add(Field.of("c", Types.INTEGER).withDefault(7), Place.FIRST)
                    .rename("v", "level")
                    .widen("level", Types.BIGINT)));
    assertThat(rows().get(50)).isEqualTo(Map.of("c", 7, "k", 50, "level", 1L, "t", "new"));
  }

  @Test
  void anAppendAndADroppedColumnBothStand() {
    race(table -> table.add(50, 1, "new"), theyAlter(alter -> alter.drop("t")));
    assertThat(rows().get(50)).isEqualTo(Map.of("k", 50, "v", 1));
  }

  @Test
  void anAppendedNullMeetsALaterNotNull() {
    conflicts(
        "Column v is null in 1 row, such as k = 50",
        table -> table.add(50, null, "new"),
        theyAlter(alter -> alter.notNull("v")));
    race(table -> table.add(51, 1, "new"), theyAlter(alter -> alter.notNull("t")));
    assertThat(rows()).hasSize(21);
  }

  @Test
  void anAppendedRowMeetsALaterCheck() {
    conflicts(
        "The check low (v < 200) is false in 1 row, such as k = 50",
        table -> table.add(50, 300, "new"),
        theyAlter(alter -> alter.check("low", column("v").lessThan(200))));
    race(
        table -> table.add(51, 150, "new"),
        theyAlter(alter -> alter.check("least", column("v").greaterThan(0))));
    assertThat(rows()).hasSize(21);
  }

  @ParameterizedTest
  @EnumSource(ChangeStyle.class)
  void rowChangesAndLaterColumnsBothStand(ChangeStyle style) {
    race(
        table -> table.update().where(column("k").lessThan(4)).set("v", 1).style(style).run(),
        theyAlter(
            alter -> alter.add(Field.of("c", Types.text()).withDefault("x")).rename("t", "u")));
    race(
        table -> table.delete().where(column("k").between(4, 5)).style(style).run(),
        theyAlter(alter -> alter.widen("v", Types.DOUBLE).drop("u")));
    assertThat(rows()).hasSize(18);
    assertThat(rows().get(3)).isEqualTo(Map.of("k", 3, "v", 1.0, "c", "x"));
    assertThat(rows().get(6)).isEqualTo(Map.of("k", 6, "v", 100.0, "c", "x"));
  }

  @Test
  void aMergeAndALaterColumnBothStand() {
    race(
        table ->
            table
                .upsert(
                    MergeSource.values(
                        List.of("k", "v", "t"),
                        to -> {
                          to.add(new Object[] {1, 1, "a"});
                          to.add(new Object[] {60, 2, "b"});
                        }))
                .run(),
        theyAlter(alter -> alter.add(Field.of("c", Types.INTEGER).withDefault(7))));
    assertThat(rows().get(1)).containsEntry("v", 1).containsEntry("c", 7);
    assertThat(rows().get(60)).containsEntry("v", 2).containsEntry("c", 7);
  }

  @Test
  void aMergeAloneRunsAgainOnWiderColumns() {
    boolean[] done = {false};
    table()
        .upsert(
            MergeSource.values(
                List.of("k", "v", "t"),
                to -> {
                  to.add(new Object[] {1, 1, "a"});
                  to.add(new Object[] {60, 2, "b"});
                  if (!done[0]) {
                    done[0] = true;
                    other.alter().widen("k", Types.BIGINT).widen("v", Types.decimal(12, 1)).run();
                  }
                }))
        .run();
    assertThat(rows()).hasSize(21);
    assertThat(rows().get(1L).get("v")).hasToString("1.0");
    assertThat(rows().get(60L).get("v")).hasToString("2.0");
  }

  @Test
  void aRowChangeThatBreaksALaterCheckConflicts() {
    conflicts(
        "The check low",
        table -> table.update().where(column("k").equalTo(1)).set("v", 900).run(),
        theyAlter(alter -> alter.check("low", column("v").lessThan(200))));
  }

  @Test
  void readingTransactionsDoNotMindLaterSchemasAndLayouts() {
    race(
        table -> {
          assertThat(table.scan().count()).isEqualTo(20);
          table.add(50, 1, "new");
        },
        theyAlter(
            alter ->
                alter
                    .add(Field.of("c", Types.INTEGER))
                    .layout(LayoutPlan.none().rule("hash k into 4"))));
    assertThat(rows()).hasSize(21);
  }

  @Test
  void anAppendKeepsToTheLayoutOfItsStart() {
    race(
        table -> {
          for (int k = 50; k < 80; k++) {
            table.add(k, 1, "new");
          }
        },
        theyAlter(alter -> alter.layout(LayoutPlan.none().rule("range k every 10"))));
    assertThat(rows()).hasSize(50);
    assertThat(table().now().files()).hasSize(3);
    assertThat(table().scan().where(column("k").equalTo(55)).count()).isEqualTo(1);
  }

  @Test
  void alterationsOfDifferentColumnsBothStand() {
    race(
        altering(alter -> alter.rename("v", "level").add(Field.of("mine", Types.text()))),
        theyAlter(
            alter ->
                alter
                    .add(Field.of("theirs", Types.INTEGER))
                    .rename("t", "remark")
                    .comment("remark", "said")));
    assertThat(table().schema().columns().stream().map(Field::name))
        .containsExactly("k", "level", "remark", "theirs", "mine");
    assertThat(table().schema().find("mine").id()).isEqualTo(5);
    assertThat(table().schema().find("theirs").id()).isEqualTo(4);
  }

  @Test
  void alterationsOfTheSameColumnConflict() {
    conflicts(
        "altered column v, which this transaction alters as well",
        altering(alter -> alter.rename("v", "mine")),
        theyAlter(alter -> alter.rename("v", "theirs")));
    conflicts(
        "altered column t",
        altering(alter -> alter.drop("t")),
        theyAlter(alter -> alter.setDefault("t", "x")));
    conflicts(
        "already exists with type INTEGER",
        altering(alter -> alter.add(Field.of("c", Types.INTEGER))),
        theyAlter(alter -> alter.add(Field.of("c", Types.INTEGER))));
    conflicts(
        "set another layout",
        altering(alter -> alter.layout(LayoutPlan.none().rule("hash k into 2"))),
        theyAlter(alter -> alter.layout(LayoutPlan.none().rule("hash k into 3"))));
    conflicts(
        "altered column c, which this transaction alters",
        altering(alter -> alter.drop("c")),
        theyAlter(alter -> alter.check("c", column("c").isNull())));
    conflicts(
        "dropped a column of the layout",
        altering(alter -> alter.layout(LayoutPlan.none().rule("list t"))),
        theyAlter(alter -> alter.drop("t")));
  }

  @Test
  void notNullIsProvedAgainOnRowsBornSince() {
    conflicts(
        "Column t is null in 1 row, such as k = 70",
        altering(alter -> alter.notNull("t")),
        () -> theyAppend(70, 1, null));
    other.delete().where(column("k").equalTo(70)).run();
    race(altering(alter -> alter.notNull("t")), () -> theyAppend(71, 1, "fine"));
    assertThat(table().schema().find("t").required()).isTrue();
  }

  @Test
  void aCheckIsProvedAgainOnRowsChangedSince() {
    conflicts(
        "The check low (v < 200) is false in 1 row, such as k = 3",
        altering(alter -> alter.check("low", column("v").lessThan(200))),
        () -> other.update().where(column("k").equalTo(3)).set("v", 500).run());
  }

  @Test
  void aKeyIsProvedAnew() {
    other.alter().dropKey().run();
    conflicts(
        "1 row cannot be added because of existing keys: k = 1 (serial",
        altering(alter -> alter.key("k")),
        () -> theyAppend(1, 1, "twice"));
    assertThatThrownBy(() -> table().alter().key("k").run())
        .hasMessageContaining("The key (k) is there already in 1 row, such as k = 1");
  }

  @Test
  void alterationsMeetDropAsEveryoneDoes() {
    assertThatThrownBy(
            () ->
                race(
                    altering(alter -> alter.rename("v", "level")),
                    () -> Lake.open(store).dropTable("t.x")))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("Table t.x was dropped");
  }

  private static Map<String, Object> named(int k, String name, Object value) {
    Map<String, Object> row = new LinkedHashMap<>();
    row.put("k", k);
    row.put(name, value);
    return row;
  }

  /** Grows a table by what a row brings, while somebody else does something. */
  private void grow(Map<String, Object> row, Runnable theirs) {
    try (Append append = table().append(rules -> rules.with(Drift.GROW))) {
      append.addObject(row);
      theirs.run();
      append.commit();
    }
  }

  private Runnable theyGrow(Map<String, Object> row) {
    return () -> {
      try (Append append = other.append(rules -> rules.with(Drift.GROW))) {
        append.addObject(row);
        append.commit();
      }
    };
  }

  @Test
  void twoWritersThatGrowTheSameColumnBothStand() {
    grow(named(50, "salinity", 34.5), theyGrow(named(51, "salinity", 35.25)));
    assertThat(table().schema().columns()).hasSize(4);
    assertThat(rows().get(50)).containsEntry("salinity", 34.5);
    assertThat(rows().get(51)).containsEntry("salinity", 35.25);
    assertThat(rows().get(1)).containsEntry("salinity", null);
  }

  @Test
  void twoWritersThatGrowAColumnByTypesThatFitBothStand() {
    grow(named(50, "salinity", 34.5), theyGrow(named(51, "salinity", 35)));
    assertThat(table().schema().find("salinity").type()).isEqualTo(Types.DOUBLE);
    assertThat(rows().get(50)).containsEntry("salinity", 34.5);
    assertThat(rows().get(51)).containsEntry("salinity", 35.0);
    grow(named(52, "depth", 3), theyGrow(named(53, "depth", 3.5)));
    assertThat(rows().get(52)).containsEntry("depth", 3.0);
    assertThat(rows().get(53)).containsEntry("depth", 3.5);
  }

  @Test
  void twoWritersThatGrowAColumnByTypesThatDoNotFitConflict() {
    assertThatThrownBy(
            () -> grow(named(50, "salinity", "high"), theyGrow(named(51, "salinity", 35))))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining(
            "Column salinity is INTEGER and cannot be widened to hold VARCHAR as well")
        .hasMessageContaining("bert");
    assertThat(rows()).hasSize(21);
  }

  @Test
  void filesOfWritersThatGrewOtherColumnsUnderTheSameIdAreReadRight() {
    grow(named(50, "mine", 1), theyGrow(named(51, "theirs", "x")));
    grow(
        named(52, "health", Map.of("battery", 5)),
        theyGrow(named(53, "health", Map.of("signal", 2.5, "seen", "now"))));
    Map<String, Object> row = rows().get(52);
    assertThat(row).containsEntry("mine", null).containsEntry("theirs", null);
    assertThat(((Row) row.get("health")).get("battery")).isEqualTo(5);
    assertThat(((Row) row.get("health")).get("signal")).isNull();
    assertThat(((Row) rows().get(53).get("health")).get("signal")).isEqualTo(2.5);
    assertThat(rows().get(50)).containsEntry("mine", 1).containsEntry("theirs", null);
    assertThat(rows().get(51)).containsEntry("mine", null).containsEntry("theirs", "x");
    assertThat(table().scan().where(column("mine").equalTo(1)).count()).isEqualTo(1);
    assertThat(table().scan().where(column("theirs").equalTo("x")).count()).isEqualTo(1);
    assertThat(table().scan().where(column("health.battery").isNotNull()).count()).isEqualTo(1);
    table().update().where(column("k").equalTo(50)).set("v", 3).run();
    assertThat(rows().get(50)).containsEntry("mine", 1).containsEntry("v", 3);
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      work.table("t.x").alter().rename("mine", "ours").widen("ours", Types.BIGINT).run();
      work.commit();
    }
    assertThat(rows().get(50)).containsEntry("ours", 1L);
  }

  @Test
  void aCheckThatWasReplacedUnderItsNameIsProvedOfWhatCame() {
    try (Lake own = Lake.create(new org.ysteron.store.MemoryStore())) {
      Table bounded = own.createTable("t.b", Schema.of(Field.of("k", Types.INTEGER)));
      bounded.alter().check("c", column("k").lessThan(1200)).run();
      try (Append append = bounded.append()) {
        append.add(1100);
        bounded.alter().dropCheck("c").check("c", column("k").lessThan(1000)).run();
        assertThatThrownBy(append::commit).isInstanceOf(ConflictException.class);
      }
      assertThat(bounded.scan().count()).isZero();
    }
  }
}
