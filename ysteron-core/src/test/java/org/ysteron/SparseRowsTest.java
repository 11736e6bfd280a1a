package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.ChangedRow;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/**
 * Rows here and there in large files, of columns of every kind, with nulls, defaults of old rows
 * and nested values: what is read of them alone is what a scan reads of all.
 */
class SparseRowsTest {
  private static final int ROWS = 60_000;
  private static final Type.Struct POINT =
      (Type.Struct) Types.struct(Field.of("x", Types.DOUBLE), Field.of("name", Types.text()));
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("k", Types.INTEGER).notNull(),
          Field.of("part", Types.INTEGER),
          Field.of("truth", Types.BOOLEAN),
          Field.of("number", Types.BIGINT),
          Field.of("small", Types.INTEGER),
          Field.of("real", Types.REAL),
          Field.of("money", Types.decimal(12, 2)),
          Field.of("long_decimal", Types.decimal(30, 4)),
          Field.of("word", Types.text()),
          Field.of("text", Types.text()),
          Field.of("id", Types.UUID),
          Field.of("point", POINT),
          Field.of("list", Types.listOf(Types.INTEGER)),
          Field.of("map", Types.mapOf(Types.text(), Types.BIGINT)));

  private final Random random = new Random(11);

  private Object[] row(int k) {
    boolean sparse = random.nextInt(3) == 0;
    return new Object[] {
      k,
      random.nextInt(200),
      sparse ? null : random.nextBoolean(),
      random.nextLong(),
      k % 7 == 0 ? null : random.nextInt(5),
      random.nextFloat(),
      random.nextInt(50) == 0 ? null : BigDecimal.valueOf(random.nextInt(), 2),
      sparse ? null : new BigDecimal("12345678901234567890.1234").add(BigDecimal.valueOf(k)),
      "word " + random.nextInt(6),
      sparse ? null : "text number " + random.nextInt(),
      new java.util.UUID(random.nextLong(), k),
      k % 5 == 0 ? null : Row.of(POINT, random.nextDouble(), sparse ? null : "p" + k),
      k % 4 == 0 ? null : List.of(k, random.nextInt(9)).subList(0, random.nextInt(3)),
      k % 6 == 0 ? null : Map.of("a" + random.nextInt(3), random.nextLong())
    };
  }

  private static Map<Object, List<Object>> rows(TableView view) {
    Map<Object, List<Object>> rows = new TreeMap<>();
    try (Results<Row> all = view.scan().rows()) {
      for (Row row : all) {
        rows.put(row.get("k"), List.of(row.toString()));
      }
    }
    return rows;
  }

  @ParameterizedTest
  @ValueSource(ints = {1, 2, 4})
  void rowsReadAloneAreThoseOfAScan(int threads) {
    try (Lake lake = Lake.create(new MemoryStore(), LakeOptions.DEFAULTS.threads(threads))) {
      Table table =
          lake.createTable(
              "t.t", SCHEMA, TableSettings.DEFAULTS.with(TableSettings.FILE_BYTES, 1L << 30));
      try (Append append = table.append()) {
        for (int k = 0; k < ROWS; k++) {
          append.add(row(k));
        }
        append.commit();
      }
      table
          .alter()
          .add(Field.of("more", Types.INTEGER).withDefault(3))
          .widen("small", Types.BIGINT)
          .run();
      table.delete().where(column("part").equalTo(7)).style(ChangeStyle.MASK).run();
      for (int part : new int[] {10, 11, 40}) {
        TableView before = table.now();
        table
            .update()
            .where(column("part").between(part, part + part / 20))
            .set("truth", true)
            .set("more", part)
            .style(part == 11 ? ChangeStyle.REWRITE : ChangeStyle.MASK)
            .run();
        compare(before, table.now());
      }
      TableView before = table.now();
      table.delete().where(column("part").between(100, 101)).style(ChangeStyle.MASK).run();
      table.compact().full().run();
      compare(before, table.now());
      compare(table.now(), before);
    }
  }

  private static void compare(TableView from, TableView to) {
    Map<Object, List<Object>> old = rows(from);
    Map<Object, List<Object>> now = rows(to);
    List<Object> told = new ArrayList<>();
    try (Results<ChangedRow> changes = from.changesTo(to).rows()) {
      for (ChangedRow change : changes) {
        Row any = change.kind() == ChangeKind.INSERTED ? change.after() : change.before();
        Object k = any.get("k");
        told.add(k);
        if (change.before() != null) {
          assertThat(change.before()).hasToString((String) old.get(k).get(0));
        }
        if (change.after() != null) {
          assertThat(change.after()).hasToString((String) now.get(k).get(0));
        }
      }
    }
    List<Object> expected = new ArrayList<>();
    old.forEach((k, row) -> expected.addAll(row.equals(now.get(k)) ? List.of() : List.of(k)));
    now.keySet().stream().filter(k -> !old.containsKey(k)).forEach(expected::add);
    assertThat(told).containsExactlyInAnyOrderElementsOf(expected).isNotEmpty();
  }
}
