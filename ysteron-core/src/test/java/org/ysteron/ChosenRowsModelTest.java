package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Expression.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.evaluate.RandomExpressions;
import org.ysteron.internal.evaluate.SlowEvaluator;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.typing.TypedTest;
import org.ysteron.internal.typing.Typing;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/**
 * Scans with random conditions give just the rows for which they are true, whatever is masked,
 * coded, older than a column or in several files and row groups.
 */
class ChosenRowsModelTest {
  private static final int SEEDS = Integer.getInteger("ysteron.chosen", 3);
  private static final int CONDITIONS = 40;

  private int compared;

  @Test
  void scansGiveTheRowsForWhichAConditionIsTrue() {
    long first = Long.getLong("ysteron.seed", new Random().nextLong());
    for (long seed = first; seed < first + SEEDS; seed++) {
      try {
        run(new Random(seed));
      } catch (Throwable e) {
        throw new AssertionError("seed " + seed, e);
      }
    }
    assertThat(compared).isGreaterThan(3 * SEEDS);
  }

  private void run(Random random) {
    MemoryStore store = new MemoryStore();
    int threads = 1 + random.nextInt(2);
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(threads))) {
      Table table =
          lake.createTable(
              "t.x",
              RandomExpressions.SCHEMA,
              TableSettings.DEFAULTS.with(
                  TableSettings.FILE_BYTES, random.nextBoolean() ? 1L << 26 : 60_000L));
      RandomExpressions expressions = new RandomExpressions(random);
      int appends = 1 + random.nextInt(3);
      for (int i = 0; i < appends; i++) {
        append(table, expressions, random);
        change(table, random);
      }
      List<Row> rows = rows(table.scan());
      for (int i = 0; i < CONDITIONS; i++) {
        check(table, rows, expressions.condition(random.nextInt(3)), random);
      }
    }
  }

  private static void append(Table table, RandomExpressions expressions, Random random) {
    try (Append append = table.append()) {
      int batches = 1 + random.nextInt(3);
      for (int b = 0; b < batches; b++) {
        int size = random.nextInt(4) == 0 ? 9000 : 1 + random.nextInt(400);
        Batch few = expressions.batch(Math.min(size, 300));
        for (int i = 0; i < size; i++) {
          Row row = few.row(i % few.size());
          Object[] values = new Object[table.schema().columns().size()];
          for (int c = 0; c < values.length; c++) {
            Field field = table.schema().columns().get(c);
            boolean known = c < few.vectors().size();
            values[c] = known ? row.get(c) : field.writeDefault().orElse(null);
          }
          append.add(values);
        }
      }
      append.commit();
    }
  }

  private static void change(Table table, Random random) {
    switch (random.nextInt(6)) {
      case 0 -> table.delete().where(column("n").lessThan(0)).style(ChangeStyle.MASK).run();
      case 1 ->
          table
              .delete()
              .where(column("d").greaterThan(0).or(column("d").isNull()))
              .style(ChangeStyle.MASK)
              .run();
      case 2 -> {
        if (table.schema().struct().indexOf("added") < 0) {
          table.alter().add(Field.of("added", Types.INTEGER).withDefault(7)).run();
        }
      }
      case 3 -> table.compact().full().run();
      case 4 -> table.delete().where(column("i").equalTo(3)).run();
      default -> {}
    }
  }

  /** Rows are looked at when all are read, as arrays that serve again must not be in them. */
  private static List<Row> rows(Scan scan) {
    List<Batch> batches = new ArrayList<>();
    try (Results<Batch> results = scan.batches()) {
      results.forEach(batches::add);
    }
    List<Row> rows = new ArrayList<>();
    for (Batch batch : batches) {
      for (Row row : batch.rows()) {
        rows.add(Row.of(new org.ysteron.data.Type.Struct(row.fields()), values(row)));
      }
    }
    return rows;
  }

  private static Object[] values(Row row) {
    Object[] values = new Object[row.fields().size()];
    for (int c = 0; c < values.length; c++) {
      values[c] = row.get(c);
    }
    return values;
  }

  private void check(Table table, List<Row> rows, Condition condition, Random random) {
    TypedTest typed;
    try {
      typed = new Typing(table.schema()).type(condition);
      Filter.bind(condition, table.schema()); // a literal must be a value of its column's type
    } catch (InvalidInputException e) {
      return;
    }
    List<String> names = new ArrayList<>();
    for (Field field : table.schema().columns()) {
      if (random.nextInt(3) == 0) {
        names.add(field.name());
      }
    }
    if (names.isEmpty()) {
      names.add("n");
    }
    List<String> expected = new ArrayList<>();
    for (Row row : rows) {
      try {
        if (Boolean.TRUE.equals(new SlowEvaluator(row).test(typed))) {
          expected.add(names.stream().map(name -> text(row.get(name))).toList().toString());
        }
      } catch (SlowEvaluator.Failure e) {
        return; // a row that cannot be tested
      }
    }
    List<String> found = new ArrayList<>();
    for (Row row : rows(table.scan().where(condition).columns(names))) {
      found.add(names.stream().map(name -> text(row.get(name))).toList().toString());
    }
    assertThat(found).as("%s of %d rows", condition, rows.size()).isEqualTo(expected);
    assertThat(selected(table.scan().where(condition).columns(names), names))
        .as("%s", condition)
        .isEqualTo(expected);
    assertThat(table.scan().where(condition).count())
        .as("%s", condition)
        .isEqualTo(expected.size());
    compared++;
  }

  private static List<String> selected(Scan scan, List<String> names) {
    List<SelectedBatch> batches = new ArrayList<>();
    try (Results<SelectedBatch> results = scan.selectedBatches()) {
      results.forEach(batches::add);
    }
    List<String> found = new ArrayList<>();
    for (SelectedBatch batch : batches) {
      for (int i = 0; i < batch.count(); i++) {
        Row row = batch.batch().row(batch.at(i));
        found.add(names.stream().map(name -> text(row.get(name))).toList().toString());
      }
    }
    return found;
  }

  private static String text(Object value) {
    return value instanceof Row row
        ? row.fields().size() + ":" + java.util.Arrays.toString(values(row))
        : String.valueOf(value);
  }
}
