package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.write.BufferLimit;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Explanation;
import org.ysteron.store.MemoryStore;

/** Rows that are near in several columns come into few files, and stay what they are. */
class ClusterTest {
  private static final int ROWS = 120_000;

  private final Lake lake = Lake.create(new MemoryStore());
  private Table table;

  @BeforeEach
  void fill() {
    Schema schema =
        Schema.of(
            Field.of("id", Types.INTEGER),
            Field.of("at", Types.struct(Field.of("x", Types.INTEGER), Field.of("y", Types.text()))),
            Field.of("z", Types.DOUBLE));
    table =
        lake.createTable("t.x", schema, TableSettings.DEFAULTS.fileBytes(3000).groupBytes(3000));
    append(0, ROWS, new Random(3));
  }

  private void append(int first, int count, Random random) {
    Schema schema = table.schema();
    try (Append append = table.append()) {
      for (int id = first; id < first + count; id++) {
        // Most values are small: equal steps would put nearly all rows into one cell.
        int x = (int) Math.exp(random.nextDouble() * 14);
        String y = "gauge " + random.nextInt(1000);
        Row at = Row.of((org.ysteron.data.Type.Struct) schema.find("at").type(), x, y);
        append.add(id, random.nextInt(50) == 0 ? null : at, random.nextGaussian());
      }
      append.commit();
    }
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private List<Integer> ids() {
    List<Integer> ids = new ArrayList<>();
    table.scan().columns("id").rows().forEach(row -> ids.add(row.getInt("id")));
    return ids;
  }

  private double opened(Condition condition) {
    Explanation plan = table.scan().where(condition).explain();
    return (double) (plan.opened().filesWhole() + plan.opened().filesFiltered()) / plan.files();
  }

  @Test
  @SuppressWarnings("try") // the limit is there while it is open
  void aBoxOpensFewFiles() {
    Condition x = column("at.x").between(1000, 1400);
    Condition y = column("at.y").between("gauge 300", "gauge 330");
    long found = table.scan().where(x.and(y)).count();
    assertThat(opened(x.and(y))).isGreaterThan(0.9);
    table.alter().layout(LayoutPlan.none().along("at.x", "at.y")).run();
    CompactionReport report;
    try (BufferLimit few = new BufferLimit(20_000)) {
      report = table.compact().renewing().run();
    }
    assertThat(report.read().rows()).isEqualTo(ROWS);
    assertThat(table.now().files().size()).isGreaterThan(12);
    assertThat(opened(x.and(y))).isLessThan(0.25);
    assertThat(opened(x)).isLessThan(0.5);
    assertThat(opened(y)).isLessThan(0.5);
    assertThat(table.scan().where(x.and(y)).count()).isEqualTo(found);
    assertThat(ids()).hasSize(ROWS).doesNotHaveDuplicates();
    assertThat(table.compact().renewing().run()).isEqualTo(CompactionReport.NOTHING);
    assertThat(table.now().layouts().get(1L).toString()).isEqualTo("along a curve over at.x, at.y");
    List<TableHealth.Opening> openings = table.health().openings();
    assertThat(openings)
        .extracting(opening -> String.join("+", opening.columns()))
        .containsExactly("at.x", "at.y", "at.x+at.y");
    int files = table.now().files().size();
    assertThat(openings.get(0).files()).isBetween(1.0, 0.6 * files);
    assertThat(openings.get(1).files()).isBetween(1.0, 0.6 * files);
    assertThat(openings.get(2).files()).isBetween(1.0, 0.25 * files);
  }

  /** What is loaded later keeps to the curve, and to the quantiles that its layout has. */
  @Test
  void loadsKeepToTheCurve() {
    table.alter().layout(LayoutPlan.none().rule("hash id into 2").along("at.x", "z")).run();
    LayoutPlan plan = table.now().layouts().get(1L);
    assertThat(plan.curve()).allMatch(column -> column.contains(" at "));
    append(ROWS, 5000, new Random(4));
    assertThat(table.health().findings())
        .extracting("kind")
        .contains(TableHealth.Kind.OLD_LAYOUT)
        .doesNotContain(TableHealth.Kind.OUT_OF_ORDER);
    long older = table.now().filesOfLayout(0);
    assertThat(older).isPositive();
    assertThat(table.compact().renewing().where(column("id").lessThan(ROWS)).run().commits())
        .isNotEmpty();
    assertThat(table.now().filesOfLayout(0)).isZero();
    assertThat(table.now().layouts().get(1L)).hasToString(plan.toString());
    assertThat(ids()).hasSize(ROWS + 5000).doesNotHaveDuplicates();
  }

  @Test
  void columnsOfACurveAreRenamedAndWidenedAndNotDropped() {
    table.alter().layout(LayoutPlan.none().along("at.x", "z")).run();
    assertThatThrownBy(() -> table.alter().drop("z").run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("used by the layout (along a curve over at.x, z)");
    table.alter().rename("z", "depth").widen("at.x", Types.BIGINT).run();
    append(ROWS, 100, new Random(5));
    table.compact().renewing().run();
    assertThat(ids()).hasSize(ROWS + 100).doesNotHaveDuplicates();
    long version = table.now().version();
    table.rewind().to(1).run();
    assertThat(table.now().layouts().keySet()).isNotEmpty();
    table.rewind().to(version).run();
    assertThat(ids()).hasSize(ROWS + 100);
  }

  @Test
  void aCurveOfAnEmptyTableIsPlacedWhenItIsSetAgain() {
    Table empty =
        lake.createTable(
            "t.y", Schema.of(Field.of("a", Types.INTEGER), Field.of("b", Types.INTEGER)));
    empty.alter().layout(LayoutPlan.none().along("a", "b")).run();
    assertThat(empty.now().layouts().get(1L).curve()).containsExactly("a", "b");
    try (Append append = empty.append()) {
      for (int i = 0; i < 100; i++) {
        append.add(i, i * i);
      }
      append.commit();
    }
    empty.alter().layout(LayoutPlan.none().along("a", "b")).run();
    assertThat(empty.now().layouts().get(2L).curve().get(0)).startsWith("a at 0, 6, 12");
    empty.alter().layout(LayoutPlan.none().along("a", "b at 1, 5")).run();
    assertThat(empty.now().layouts().get(3L).curve().get(0)).startsWith("a at 0, 6, 12");
    assertThat(empty.now().layouts().get(3L).curve().get(1)).isEqualTo("b at 1, 5");
    // A column that comes with the layout has no values yet.
    empty
        .alter()
        .add(Field.of("c", Types.INTEGER).withDefault(3))
        .layout(LayoutPlan.none().along("a", "c"))
        .run();
    assertThat(empty.now().layouts().get(4L).curve()).containsExactly("a", "c");
    empty.compact().renewing().run();
    assertThat(empty.scan().count()).isEqualTo(100);
  }
}
