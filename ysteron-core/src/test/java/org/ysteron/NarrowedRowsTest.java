package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Expression.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/**
 * Conjunctions of simple tests over many pages and row groups: each is applied to what the ones
 * before it have left, by the words of dictionaries where there are some.
 */
class NarrowedRowsTest {
  private static final int ROWS = 70_000;
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("k", Types.INTEGER).notNull(),
          Field.of("few", Types.INTEGER).notNull(),
          Field.of("some", Types.BIGINT).notNull(),
          Field.of("runs", Types.INTEGER).notNull(),
          Field.of("text", Types.text()).notNull(),
          Field.of("gaps", Types.INTEGER),
          Field.of("plain", Types.BIGINT).notNull(),
          Field.of("words", Types.text()).notNull());

  private record Case(Condition condition, Predicate<Object[]> holds) {}

  private final Random random = new Random(Long.getLong("ysteron.seed", System.nanoTime()));

  private Object[] row(int k) {
    return new Object[] {
      k,
      random.nextInt(7),
      (long) random.nextInt(k < ROWS / 2 ? 3000 : 100) - 1000,
      k / 5000 % 4,
      "t" + random.nextInt(20),
      random.nextInt(4) == 0 ? null : random.nextInt(50),
      random.nextLong(),
      "word " + random.nextInt() + (random.nextBoolean() ? "" : "é")
    };
  }

  private Case test() {
    int c = random.nextInt(8);
    if (c == 7) {
      long sum = random.nextInt(2000) - 500L;
      return new Case(
          column("some").plus(column("few")).lessThan(sum),
          row -> (long) row[2] + (int) row[1] < sum);
    }
    String name = SCHEMA.columns().get(1 + c % 6).name();
    int at = SCHEMA.struct().indexOf(name);
    if (name.equals("text")) {
      List<String> options = List.of("t" + random.nextInt(20), "t" + random.nextInt(25), "t3");
      return new Case(column(name).in(options), row -> options.contains(row[at]));
    }
    if (name.equals("gaps") && random.nextBoolean()) {
      return new Case(column(name).isNull(), row -> row[at] == null);
    }
    long bound =
        switch (name) {
          case "few" -> random.nextInt(8);
          case "some" -> random.nextInt(3200) - 1100;
          case "runs" -> random.nextInt(5);
          case "gaps" -> random.nextInt(52);
          default -> random.nextLong() / (1 + random.nextInt(8));
        };
    Predicate<Object[]> present = row -> row[at] != null;
    return random.nextBoolean()
        ? new Case(
            column(name).lessThan(bound),
            present.and(row -> ((Number) row[at]).longValue() < bound))
        : new Case(
            column(name).atLeast(bound),
            present.and(row -> ((Number) row[at]).longValue() >= bound));
  }

  @Test
  void whatEachTestLeavesIsWhatAllLeave() {
    try (Lake lake =
        Lake.create(new MemoryStore(), LakeOptions.DEFAULTS.threads(1 + random.nextInt(3)))) {
      Table table =
          lake.createTable(
              "t.x", SCHEMA, TableSettings.DEFAULTS.with(TableSettings.GROUP_BYTES, 1L << 20));
      List<Object[]> rows = new ArrayList<>();
      try (Append append = table.append()) {
        for (int k = 0; k < ROWS; k++) {
          rows.add(row(k));
          append.add(rows.get(k));
        }
        append.commit();
      }
      table.delete().where(column("k").modulo(97).equalTo(5)).style(ChangeStyle.MASK).run();
      rows.removeIf(row -> (int) row[0] % 97 == 5);
      for (int i = 0; i < 60; i++) {
        check(table, rows);
      }
    }
  }

  private static void checkSelected(Scan scan, List<Object[]> expected) {
    List<SelectedBatch> held = new ArrayList<>();
    try (Results<SelectedBatch> batches = scan.selectedBatches()) {
      batches.forEach(held::add);
    }
    int next = 0;
    for (SelectedBatch batch : held) {
      for (int i = 0; i < batch.count(); i++) {
        assertThat(batch.batch().row(batch.at(i)).values()).isEqualTo(expected.get(next++));
      }
    }
    assertThat(next).isEqualTo(expected.size());
  }

  private void check(Table table, List<Object[]> rows) {
    Condition all = Condition.all();
    Predicate<Object[]> holds = row -> true;
    for (int n = 1 + random.nextInt(4); n > 0; n--) {
      Case test = test();
      all = all.and(test.condition());
      holds = holds.and(test.holds());
    }
    List<Batch> held = new ArrayList<>();
    try (Results<Batch> batches = table.scan().where(all).batches()) {
      batches.forEach(held::add);
    }
    table.scan().count(); // which uses arrays again
    List<Object[]> expected = rows.stream().filter(holds).toList();
    int next = 0;
    for (Batch batch : held) {
      for (Row row : batch.rows()) {
        assertThat(row.values()).as("%s", all).isEqualTo(expected.get(next++));
      }
    }
    assertThat(next).as("%s", all).isEqualTo(expected.size());
    checkSelected(table.scan().where(all), expected);
    int limit = random.nextInt(ROWS);
    checkSelected(
        table.scan().where(all).limit(limit),
        expected.subList(0, Math.min(limit, expected.size())));
    assertThat(table.scan().where(all).count()).as("%s", all).isEqualTo(expected.size());
  }
}
