package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Expression;

/**
 * What scans and metadata do of the work of other steps changes no answer, whatever a table went
 * through.
 */
class PushDownTest {
  @TempDir Path directory;
  private final Random random = new Random(3);
  private Lake lake;

  @BeforeEach
  void create() {
    lake = Lake.create(directory.resolve("lake"));
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private Table table(String name) {
    return lake.createTable(
        name,
        Schema.of(
            Field.of("i", Types.INTEGER),
            Field.of("d", Types.decimal(5, 1)),
            Field.of("taken", Types.DATE),
            Field.of("t", Types.text(5)),
            Field.of("x", Types.DOUBLE)));
  }

  /** {@code later}: with the columns that the table has after it was altered. */
  private void append(Table table, boolean later) {
    try (Append append = table.append()) {
      for (int row = 0; row < 20; row++) {
        Integer number = random.nextInt(9) == 0 ? null : random.nextInt(100);
        List<Object> values = new ArrayList<>();
        values.add(later && number != null ? (Object) (long) number : number);
        BigDecimal level = BigDecimal.valueOf(random.nextInt(200), 1);
        values.add(later ? level.setScale(3) : level);
        values.add(LocalDate.of(2026, 1, 1 + random.nextInt(20)));
        values.add(random.nextInt(5) == 0 ? null : "t" + random.nextInt(4));
        values.add(random.nextInt(5) == 0 ? Double.NaN : random.nextInt(3) * 1.0);
        if (later) {
          values.add(random.nextInt(3) == 0 ? null : (long) random.nextInt(100));
        }
        append.add(values.toArray());
      }
      append.commit();
    }
  }

  private List<String> rows(String query, boolean pushes) {
    List<String> found = new ArrayList<>();
    SqlQuery made = SqlQuery.of(lake.now(), Optional.empty(), query, List.of(), pushes);
    try (Results<Row> rows = made.rows()) {
      rows.forEach(row -> found.add(Arrays.toString(row.values())));
    }
    Collections.sort(found);
    return found;
  }

  private void assertSame(String query) {
    assertThat(rows(query, true)).as(query).isEqualTo(rows(query, false));
  }

  private void assertMetadataTells(Table table) {
    for (Field column : table.schema().columns()) {
      assertSame(
          "SELECT count(*), count(%1$s), min(%1$s), max(%1$s) FROM x.a".formatted(column.name()));
    }
  }

  @Test
  void metadataTellsWhatRowsTell() {
    Table table = table("x.a");
    assertMetadataTells(table);
    append(table, false);
    append(table, false);
    assertMetadataTells(table);
    assertThat(lake.sql("SELECT min(i), max(d), count(taken) FROM x.a").plan())
        .isEqualTo("1 row of metadata of x.a\n");
    table.alter().add(Field.of("n", Types.BIGINT).withDefault(7L)).run();
    table.alter().widen("i", Types.BIGINT).run();
    table.alter().widen("d", Types.decimal(9, 3)).run();
    assertMetadataTells(table);
    append(table, true);
    assertMetadataTells(table);
    table.delete().where(Expression.column("i").greaterThan(90)).run();
    assertMetadataTells(table);
    table.compact().run();
    assertMetadataTells(table);
    table.alter().rename("n", "m").run();
    assertMetadataTells(table);
    table.alter().drop("m").run();
    assertMetadataTells(table);
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT p.i, q.d FROM x.a p JOIN x.b q ON p.i = q.d",
        "SELECT p.i, q.i FROM x.a p LEFT JOIN x.b q ON p.d = q.i WHERE q.i IS NULL OR q.i > 3",
        "SELECT p.t, count(*) FROM x.a p RIGHT JOIN x.b q ON p.t = q.t AND p.i < q.i GROUP BY p.t",
        "SELECT count(*) FROM x.a p JOIN x.b q ON p.taken = q.taken WHERE q.i < 8",
        "SELECT p.i FROM x.a p WHERE p.d IN (SELECT i FROM x.b)",
        "SELECT p.i FROM x.a p WHERE p.t NOT IN (SELECT t FROM x.b WHERE i < 9)",
        "SELECT p.i FROM x.a p WHERE EXISTS (SELECT 1 FROM x.b q WHERE q.x = p.x AND q.i < 9)",
        "SELECT p.i, q.i FROM x.a p FULL JOIN x.b q ON p.i = q.i",
        "SELECT p.i FROM x.a p JOIN x.b q ON p.i = q.i JOIN x.a s ON s.d = q.d WHERE s.i < 9",
        "SELECT p.j FROM (SELECT i + 1 AS j FROM x.a) p JOIN x.b q ON p.j = q.i WHERE q.i < 30",
        "SELECT count(*) FROM x.a p JOIN (SELECT DISTINCT t FROM x.b WHERE i > 95) q ON p.t || '' = q.t",
        "SELECT count(*) FROM x.a p JOIN x.b q ON CAST(p.taken AS TIMESTAMP) = CAST(q.taken AS TIMESTAMP) WHERE q.i < 5",
        "SELECT count(*) FROM x.a p JOIN x.b q ON p.i = q.i WHERE q.i < 0",
        "SELECT count(*) FROM x.a p JOIN x.b q ON p.i = q.i AND p.t = q.t"
      })
  void keysOfOneSideRestrictTheOther(String query) {
    for (String name : List.of("x.a", "x.b")) {
      Table table = table(name);
      append(table, false);
      append(table, false);
      table.alter().widen("i", Types.BIGINT).run();
      table.delete().where(Expression.column("i").equalTo(7)).run();
    }
    assertSame(query);
  }
}
