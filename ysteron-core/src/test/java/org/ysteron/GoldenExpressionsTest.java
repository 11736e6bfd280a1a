package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Expression.column;
import static org.ysteron.expr.Expression.when;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.RejectedRowException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.TimeUnit;
import org.ysteron.option.Check;
import org.ysteron.proof.CheckDepth;

/**
 * A lake that was kept, whose checks have all forms of expressions, is read and written to. {@link
 * #main} made it.
 */
class GoldenExpressionsTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-expressions");
  private static final Instant NOON = Instant.parse("2026-03-01T12:00:00Z");

  @TempDir private Path directory;

  private static Map<String, Condition> checks() {
    return Map.of(
        "sums", column("level").plus(column("n")).times(2).minus(1).lessThan(2_000),
        "texts",
            column("t")
                .upper()
                .concat("!")
                .like("R%_!!", '!')
                .or(column("t").trim().substring(1, 3).length().atMost(3)),
        "times",
            column("taken_at")
                .extract(TimeUnit.YEAR)
                .between(2000, 2100)
                .and(column("taken_at").minus(Duration.ofDays(1)).lessThan(column("taken_at"))),
        "choices",
            when(column("n").isNull(), 1)
                .otherwise(column("n"))
                .distinctFrom(-1)
                .and(column("n").nullIf(7).orElse(0).abs().cast(Types.decimal(5, 1)).atLeast(0)),
        "lists",
            column("tags")
                .cardinality()
                .equalTo(0)
                .or(column("tags").element(1).in(List.of("a", "b"))),
        "documents", column("doc").jsonValue("$.a.b").isNull().or(column("doc").isNotNull()),
        "floors",
            column("taken_at")
                .floorTo(TimeUnit.DAY)
                .atMost(column("taken_at"))
                .and(column("level").round(0).dividedBy(4).modulo(1000).atLeast(0)));
  }

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) {
    Schema schema =
        Schema.of(
            Field.of("n", Types.INTEGER),
            Field.of("level", Types.decimal(7, 1)),
            Field.of("t", Types.text()),
            Field.of("taken_at", Types.INSTANT),
            Field.of("tags", Types.listOf(Types.text())),
            Field.of("doc", Types.JSON));
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      Alter alter = table.alter();
      for (Map.Entry<String, Condition> check : new java.util.TreeMap<>(checks()).entrySet()) {
        alter = alter.check(check.getKey(), check.getValue());
      }
      alter.run();
      try (Append append = table.append()) {
        for (int n = 0; n < 10; n++) {
          append.add(n, BigDecimal.valueOf(15L * n, 1), "row " + n, NOON, List.of("a"), "{}");
        }
        append.commit();
      }
      table.update().where(column("n").modulo(2).equalTo(1)).set("n", column("n").plus(100)).run();
    }
  }

  @Test
  void checksThatComputeAreReadAndKept() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      for (Check check : table.checks()) {
        assertThat(check.condition())
            .as(check.name())
            .hasToString(checks().get(check.name()).toString());
      }
      assertThat(table.checks()).hasSize(7);
      assertThat(table.scan().where(column("n").plus(1).greaterThan(100)).count()).isEqualTo(5);
      assertThatThrownBy(() -> add(table, 2000, "x", NOON, List.of()))
          .isInstanceOf(RejectedRowException.class)
          .hasMessageContaining("sums");
      assertThatThrownBy(() -> add(table, 1, "x", NOON.minus(Duration.ofDays(20_000)), List.of()))
          .hasMessageContaining("times");
      assertThatThrownBy(() -> add(table, 1, "x", NOON, List.of("c")))
          .hasMessageContaining("lists");
      add(table, 1, "x", NOON, List.of("b"));
      table.alter().rename("n", "number").run();
      assertThat(table.checks()).anyMatch(check -> check.toString().contains("number"));
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }

  private static void add(Table table, int n, String t, Instant at, List<String> tags) {
    try (Append append = table.append()) {
      append.add(n, BigDecimal.ONE, t, at, tags, null);
      append.commit();
    }
  }

  /** What a newer program would store is kept as it is, and refused when rows are written. */
  @Test
  void aConditionOfAnUnknownFormIsShownAndNotTested() {
    Condition unknown = new Condition.Unknown("WHIRL(n) > 1", Map.of("whirl", 1));
    assertThat(new Check("odd", unknown)).hasToString("CONSTRAINT odd CHECK (WHIRL(n) > 1)");
    assertThat(unknown.columns()).isEmpty();
    assertThat((Expression) unknown.renamed(path -> path + "x")).isEqualTo(unknown);
  }
}
