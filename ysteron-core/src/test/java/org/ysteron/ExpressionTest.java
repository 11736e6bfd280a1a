package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Expression.column;
import static org.ysteron.expr.Expression.literal;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.TimeUnit;
import org.ysteron.report.Explanation;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;

/** Conditions, checks, updates and merges compute with expressions. */
class ExpressionTest {
  private static final Instant NOON = Instant.parse("2026-03-01T12:00:00Z");

  private final MemoryStore store = new MemoryStore();
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeLake() {
    lake = Lake.create(store);
    table =
        lake.createTable(
            "t.levels",
            Schema.of(
                    Field.of("id", Types.text(8)).notNull(),
                    Field.of("at", Types.INSTANT),
                    Field.of("level", Types.decimal(7, 1)),
                    Field.of("n", Types.INTEGER),
                    Field.of("tags", Types.listOf(Types.text())))
                .withKey("id"));
    for (int file = 0; file < 3; file++) {
      try (Append append = table.append()) {
        for (int i = 0; i < 4; i++) {
          int n = 4 * file + i;
          append.add(
              "r" + n,
              NOON.plus(n, ChronoUnit.DAYS),
              BigDecimal.valueOf(1000 + 5 * n, 1),
              n,
              List.of("a", "b" + n));
        }
        append.commit();
      }
    }
  }

  private List<String> ids(Condition condition) {
    List<String> ids = new ArrayList<>();
    try (Results<Row> rows = table.scan().where(condition).rows()) {
      rows.forEach(row -> ids.add(row.getString("id")));
    }
    return ids;
  }

  private static void add(Table to, Object... values) {
    try (Append append = to.append()) {
      append.add(values);
      append.commit();
    }
  }

  @Test
  void aConditionComputes() {
    assertThat(ids(column("n").plus(5).lessThan(7))).containsExactly("r0", "r1");
    assertThat(ids(column("level").minus(column("n")).greaterThan(new BigDecimal("99.0"))))
        .containsExactly("r0", "r1");
    assertThat(ids(column("at").extract(TimeUnit.DAY).equalTo(3))).containsExactly("r2");
    assertThat(ids(column("tags").element(2).equalTo("b7"))).containsExactly("r7");
    assertThat(ids(column("id").length().equalTo(3))).containsExactly("r10", "r11");
    assertThat(ids(column("id").like("_1%"))).containsExactly("r1", "r10", "r11");
    assertThat(table.scan().where(column("n").modulo(2).equalTo(0)).count()).isEqualTo(6);
  }

  private long opened(Condition condition) {
    Explanation.Opened opened = table.scan().where(condition).explain().opened();
    return opened.filesWhole() + opened.filesFiltered();
  }

  @Test
  void whatIsSolvedSkipsFiles() {
    Condition day = column("at").cast(Types.DATE).equalTo("2026-03-02");
    assertThat(opened(day)).isEqualTo(1);
    assertThat(ids(day)).containsExactly("r1");
    Condition far = column("n").times(10).between(50, 60);
    assertThat(opened(far)).isEqualTo(1);
    Condition pair = column("level").minus(column("n")).lessThan(column("n"));
    assertThat(opened(pair)).isZero();
  }

  @Test
  void theTimeIsThatOfTheStatement() {
    Condition past = column("at").lessThan(Expression.now());
    assertThat(past).hasToString("\"at\" < CURRENT_TIMESTAMP");
    assertThat(table.scan().where(past).count()).isEqualTo(12);
    assertThat(table.scan().where(column("at").greaterThan(Expression.now())).count()).isZero();
    table.update().all().set("at", Expression.now()).run();
    try (Results<Row> rows = table.scan().rows()) {
      assertThat(rows.stream().map(row -> row.getInstant("at")).distinct()).hasSize(1);
    }
    assertThat(
            table
                .scan()
                .where(column("at").plus(Duration.ofHours(1)).greaterThan(Expression.now()))
                .count())
        .isEqualTo(12);
  }

  @Test
  void anUpdateComputesValues() {
    WriteResult result =
        table
            .update()
            .where(column("n").modulo(3).equalTo(0))
            .set("level", column("level").plus(12).minus(new BigDecimal("0.5")))
            .set("n", column("n").times(2))
            .set("at", column("at").minus(Duration.ofHours(1)))
            .run();
    assertThat(result.report().rowsUpdated()).isEqualTo(4);
    assertThat(ids(column("level").equalTo("115.5").and(column("n").equalTo(12)))).isEmpty();
    assertThat(ids(column("level").equalTo("114.5"))).containsExactly("r6");
    assertThat(ids(column("at").equalTo("2026-03-07T11:00:00Z"))).containsExactly("r6");
    assertThat(ids(column("n").equalTo(12))).containsExactly("r6");
  }

  record Wrong(Expression value, String column, String message) {}

  static List<Wrong> wrongs() {
    return List.of(
        new Wrong(
            column("n").dividedBy(column("n").minus(3)), "level", "3 / 0 is a division by zero"),
        new Wrong(
            column("level").times("1.05"),
            "level",
            "* is not defined for DECIMAL(7, 1) and VARCHAR"),
        new Wrong(
            column("level").times(new BigDecimal("1.055")),
            "level",
            "has more decimal places than DECIMAL(7, 1); round it first"),
        new Wrong(column("n").plus(Integer.MAX_VALUE), "n", "does not fit INTEGER"),
        new Wrong(column("level").times(100_000), "level", "is out of the range of DECIMAL(7, 1)"),
        new Wrong(
            column("id").concat("-is-too-long"), "id", "characters, more than VARCHAR(8) allows"),
        new Wrong(column("n"), "id", "n is INTEGER and cannot be stored as VARCHAR(8). CAST it"),
        new Wrong(literal("x"), "n", "cannot be set"),
        new Wrong(column("m"), "n", "There is no column m"),
        new Wrong(Column.ofSource("n"), "n", "only a merge has a source"),
        new Wrong(literal(null), "id", "NOT NULL"));
  }

  @ParameterizedTest
  @MethodSource("wrongs")
  void aValueThatDoesNotFitChangesNothing(Wrong wrong) {
    long entry = lake.now().commit().entry();
    assertThatThrownBy(() -> table.update().all().set(wrong.column, wrong.value).run())
        .isInstanceOfAny(InvalidInputException.class, NotFoundException.class)
        .hasMessageContaining(wrong.message);
    assertThat(lake.now().commit().entry()).isEqualTo(entry);
  }

  @Test
  void aRowThatFailsIsCountedInItsFile() {
    Table many =
        lake.createTable(
            "t.many", Schema.of(Field.of("k", Types.INTEGER), Field.of("n", Types.INTEGER)));
    try (Append append = many.append()) {
      for (int k = 0; k < 20_000; k++) {
        append.add(k, k == 15_000 ? 0 : 1);
      }
      append.commit();
    }
    Condition condition = column("k").plus(1).dividedBy(column("n")).greaterThan(0);
    assertThatThrownBy(() -> many.scan().where(condition).count())
        .hasMessageContaining("row 15000 of file");
    assertThatThrownBy(() -> many.erase(condition).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("row 15000 of file")
        .hasMessageContaining("t.many");
  }

  @Test
  void aConditionThatCannotBeComputedNamesTheRow() {
    Condition condition = literal(6).dividedBy(column("n").minus(5)).greaterThan(1);
    assertThatThrownBy(() -> ids(condition))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("row 1 of file")
        .hasMessageContaining("table t.levels, version 3: 6 / 0 is a division by zero");
    assertThatThrownBy(() -> table.delete().where(condition).run())
        .hasMessageContaining("division by zero");
    assertThat(ids(condition.and(column("n").notEqualTo(5))))
        .as("what cannot fail is tested first")
        .containsExactly("r6", "r7", "r8", "r9", "r10");
  }

  @Test
  void aMergeComputesValuesAndConditions() {
    Table source =
        lake.createTable(
            "t.source",
            Schema.of(
                Field.of("id", Types.text()).notNull(),
                Field.of("level", Types.decimal(9, 2)),
                Field.of("n", Types.INTEGER)));
    add(source, "r1", new BigDecimal("7.50"), 1);
    add(source, "r2", new BigDecimal("8.00"), 100);
    add(source, "r3", new BigDecimal("0.00"), 3);
    add(source, "new", new BigDecimal("9.10"), 4);
    add(source, "not", new BigDecimal("9.90"), -4);
    WriteResult result =
        table
            .merge(MergeSource.scan(source.scan()))
            .matched(Column.ofSource("n").greaterThan(column("n").plus(50)), Merge.delete())
            .matched(
                Column.ofSource("level").greaterThan(0),
                Merge.set(Map.of("level", column("level").plus(Column.ofSource("level")), "n", 77)))
            .unmatched(
                Column.ofSource("n").greaterThan(0),
                Merge.set(
                    Map.of(
                        "id", Column.ofSource("id"),
                        "level", Column.ofSource("level").round(1),
                        "at", Expression.now())))
            .notInSource(column("n").greaterThan(10), Merge.delete())
            .run();
    assertThat(result.report().rowsUpdated()).isEqualTo(1);
    assertThat(result.report().rowsInserted()).isEqualTo(1);
    assertThat(result.report().rowsDeleted()).isEqualTo(2);
    assertThat(ids(column("level").equalTo("108.0").and(column("n").equalTo(77))))
        .containsExactly("r1");
    assertThat(ids(column("level").equalTo("9.1"))).containsExactly("new");
    assertThat(ids(column("id").in(List.of("r2", "r11", "not")))).isEmpty();
    assertThat(ids(column("level").equalTo("101.5"))).containsExactly("r3");
  }

  @Test
  void aCheckComputes() {
    table.alter().check("near", column("level").minus(column("n")).lessThan(200)).run();
    assertThat(lake.now().commit().entry()).isPositive();
    assertThatThrownBy(() -> add(table, "x", NOON, new BigDecimal("300.0"), 1, List.of()))
        .isInstanceOf(RejectedRowException.class)
        .hasMessageContaining("breaks the check near: level - n < 200 is false");
    assertThatThrownBy(
            () -> table.alter().check("less", column("level").times(2).lessThan(201)).run())
        .hasMessageContaining("less");
    table.alter().check("inverse", literal(6).dividedBy(column("n").plus(7)).lessThan(50)).run();
    assertThatThrownBy(() -> add(table, "x", NOON, new BigDecimal("3.0"), -7, List.of()))
        .isInstanceOf(RejectedRowException.class)
        .hasMessageContaining("cannot be tested by the check inverse: 6 / 0 is a division by zero");
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.table("t.levels").checks())
          .extracting(Object::toString)
          .containsExactly(
              "CONSTRAINT near CHECK (level - n < 200)",
              "CONSTRAINT inverse CHECK (6 / (n + 7) < 50)");
      assertThatThrownBy(
              () -> add(fresh.table("t.levels"), "x", NOON, new BigDecimal("300.0"), 1, List.of()))
          .hasMessageContaining("near");
    }
    table.alter().rename("level", "cm").run();
    assertThat(table.checks().get(0)).hasToString("CONSTRAINT near CHECK (cm - n < 200)");
    assertThat(
            new String(store.read("ledger/000/000/005"), java.nio.charset.StandardCharsets.UTF_8))
        .contains("expressions");
  }

  @Test
  void aCheckThatNoRowPassesOrThatChangesByItselfIsRefused() {
    for (Condition never :
        List.of(
            column("n").lessThan(1).and(column("n").greaterThan(2)),
            column("n").plus(1).equalTo(new BigDecimal("0.5")),
            literal(1).greaterThan(2))) {
      assertThatThrownBy(() -> table.alter().check("never", never).run())
          .as(never.toString())
          .hasMessageContaining("could never be true");
    }
    assertThatThrownBy(
            () -> table.alter().check("past", column("at").lessThan(Expression.now())).run())
        .hasMessageContaining("CURRENT_TIMESTAMP cannot be used here");
  }

  @Test
  void timesWithAndWithoutAZoneDoNotMeet() {
    assertThatThrownBy(
            () ->
                ids(
                    column("at")
                        .plus(Duration.ofDays(1))
                        .lessThan(LocalDateTime.of(2026, 1, 1, 0, 0))))
        .hasMessageContaining("One has a time zone and the other has none");
    assertThatThrownBy(() -> ids(column("tags").field("x").isNull()))
        .hasMessageContaining("has no field x");
    assertThatThrownBy(() -> ids(column("tags.element").isNull()))
        .hasMessageContaining("has no field element");
  }

  @Test
  @Timeout(20)
  void whatGrowsWithoutBoundIsRefusedAtOnce() {
    Expression doubled = column("n");
    for (int i = 0; i < 60; i++) {
      doubled = Expression.coalesce(doubled.nullIf(0), doubled);
    }
    Condition huge = doubled.greaterThan(0);
    assertThatThrownBy(() -> ids(huge)).hasMessageContaining("more than 1000000 parts");
    assertThatThrownBy(() -> table.alter().check("huge", huge).run())
        .hasMessageContaining("more than 1000000 parts");
    Expression deep = column("n");
    for (int i = 0; i < 62; i++) {
      deep = deep.plus(1);
    }
    assertThat(ids(deep.equalTo(64))).containsExactly("r2");
    Condition deeper = deep.plus(1).equalTo(64);
    assertThatThrownBy(() -> ids(deeper)).hasMessageContaining("more than 64 levels deep");
    assertThat(ids(column("id").like("%r".repeat(500) + "%x"))).isEmpty();
    assertThatThrownBy(() -> ids(column("n").plus(new BigDecimal("1e500")).greaterThan(1)))
        .hasMessageContaining("has more than the 38 digits");
  }

  /** A pattern need not be a document, so that a document is not compared with it. */
  @Test
  void documentsAreLikeAnyPattern() {
    Table documents =
        lake.createTable("t.documents", Schema.of(Field.of("j", Types.JSON).notNull()));
    try (Append append = documents.append()) {
      append.add("\"ab\"").add("7").add("[1]");
      append.commit();
    }
    assertThat(documents.scan().where(column("j").like("7")).count()).isEqualTo(1);
    assertThat(documents.scan().where(column("j").like("ab")).count()).isZero();
    assertThat(documents.scan().where(column("j").like("%ab%").not()).count()).isEqualTo(2);
  }
}
