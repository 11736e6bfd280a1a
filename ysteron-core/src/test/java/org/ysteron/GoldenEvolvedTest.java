package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.form.FormComparison;
import org.ysteron.option.Alteration;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.Explanation;
import org.ysteron.report.TableFile;

/**
 * A kept lake whose schema and layout have changed, with a check, leftovers, every kind of
 * partition rule, and a file whose field ids are not its table's; {@link #main} wrote it.
 */
class GoldenEvolvedTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-evolved");

  @TempDir Path directory;

  /** Writes a lake to keep. */
  public static void main(String[] arguments) {
    Schema schema =
        Schema.of(
                Field.of("k", Types.INTEGER),
                Field.of("day", Types.DATE),
                Field.of("name", Types.text(9)),
                Field.of("h", Types.struct(Field.of("x", Types.REAL))))
            .withKey("k");
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      write(table, Drift.STRICT, row(1, "2026-01-01", "ann"));
      table
          .alter()
          .layout(
              LayoutPlan.none()
                  .rule("range day every 1 month")
                  .rule("list name of ('ann', 'bo')")
                  .sortedBy("k descending"))
          .run();
      write(table, Drift.STRICT, row(2, "2026-02-01", "bo"), row(3, "2026-03-01", null));
      table
          .alter()
          .rename("day", "at")
          .widen("at", Types.TIMESTAMP)
          .widen("k", Types.decimal(30, 2))
          .widen("h.x", Types.DOUBLE)
          .add(Field.of("c", Types.INTEGER).withDefault(7))
          .check("some", column("k").greaterThan(0))
          .layout(
              LayoutPlan.none()
                  .rule("hash k into 5")
                  .rule("range name at 'c'")
                  .rule("list c")
                  .rule("range k every 10"))
          .run();
      table.alter().setDefault("c", 8).run();
      write(table, Drift.SET_ASIDE, row(4, null, "cy", "more", 5));
      try (Append append = table.append(rules -> rules.with(Drift.GROW))) {
        append.addObject(row(5, null, "di", "mine", 1.5));
        write(table, Drift.GROW, row(6, null, "ed", "theirs", "x"));
        append.commit();
      }
      table.alter().layout(LayoutPlan.none()).drop("name").run();
    } catch (RuntimeException e) {
      throw new IllegalStateException(e);
    }
  }

  private static Map<String, Object> row(int k, String day, Object name, Object... more) {
    Map<String, Object> row = new LinkedHashMap<>();
    row.put("k", k);
    row.put(k < 4 ? "day" : "at", day);
    row.put("name", name);
    for (int i = 0; i < more.length; i += 2) {
      row.put((String) more[i], more[i + 1]);
    }
    return row;
  }

  @SafeVarargs
  private static void write(Table table, Drift drift, Map<String, Object>... rows) {
    try (Append append = table.append(rules -> rules.with(drift))) {
      for (Map<String, Object> row : rows) {
        append.addObject(row);
      }
      append.commit();
    }
  }

  private static List<String> rows(TableView view) {
    List<String> rows = new ArrayList<>();
    for (Row row : view.scan().rows()) {
      rows.add(java.util.Arrays.toString(row.values()));
    }
    java.util.Collections.sort(rows);
    return rows;
  }

  @Test
  void everyVersionIsReadByItsOwnAndByTheNewestSchema() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(rows(table.at(3)))
          .containsExactly(
              "[1, 2026-01-01, ann, null]",
              "[2, 2026-02-01, bo, null]",
              "[3, 2026-03-01, null, null]");
      assertThat(rows(table.now()))
          .containsExactly(
              "[1.00, 2026-01-01T00:00, null, 7, null, null, null]",
              "[2.00, 2026-02-01T00:00, null, 7, null, null, null]",
              "[3.00, 2026-03-01T00:00, null, 7, null, null, null]",
              "[4.00, null, null, 8, {\"more\":5}, null, null]",
              "[5.00, null, null, 8, null, null, 1.5]",
              "[6.00, null, null, 8, null, x, null]");
      assertThat(rows(table.at(1).bySchemaOf(table.now())))
          .containsExactly("[1.00, 2026-01-01T00:00, null, 7, null, null, null]");
      assertThat(table.scan().where(column("mine").equalTo(1.5)).count()).isEqualTo(1);
      assertThat(table.leftovers().get(0).path()).isEqualTo("more");
    }
  }

  @Test
  void filesArePrunedByTheirOwnLayouts() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(table.now().layouts()).hasSize(4);
      assertThat(table.now().files().stream().map(TableFile::partition))
          .contains("2026-02", "2026-03", "0 of 5, 8, [0, 10)");
      Explanation plan = table.scan().where(column("k").equalTo(5)).explain();
      assertThat(plan.layouts().stream().mapToLong(Explanation.OfLayout::filesRead).sum())
          .isEqualTo(1);
      List<Alteration> changes =
          FormComparison.ofVersions(table.at(0).page().form(), table.now().page().form());
      EvolutionTest.assertMakes(table.at(0).page().form(), changes, table.now().page().form());
      assertThatThrownBy(() -> write(table, Drift.STRICT, Map.of("k", -1)))
          .hasMessageContaining("breaks the check some");
      table.rewrite().ofOlderLayouts().run();
      assertThat(table.now().files()).hasSize(1);
      assertThat(rows(table.now())).hasSize(6);
    }
  }
}
