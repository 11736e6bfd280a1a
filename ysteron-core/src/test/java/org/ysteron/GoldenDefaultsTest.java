package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Expression.column;
import static org.ysteron.expr.Expression.now;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.proof.CheckDepth;

/**
 * A lake that was kept, whose columns have computed defaults, is read and written to. {@link #main}
 * made it.
 */
class GoldenDefaultsTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-defaults");

  @TempDir private Path directory;

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) {
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table =
          lake.createTable(
              "t.x",
              Schema.of(
                  Field.of("n", Types.INTEGER),
                  Field.of("written_at", Types.INSTANT).notNull().withDefault(now())));
      add(table, 1);
      table
          .alter()
          .add(Field.of("day", Types.DATE).notNull().withDefault(now().cast(Types.DATE)))
          .add(
              Field.of("until", Types.INSTANT)
                  .withDefault(Computed.later(now().plus(Duration.ofDays(30)))))
          .run();
      add(table, 2);
    }
  }

  private static void add(Table table, int n) {
    try (Append append = table.append()) {
      append.addObject(Map.of("n", n));
      append.commit();
    }
  }

  @Test
  void defaultsAreReadKeptAndComputed() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(table.schema().columns().stream().map(field -> field.defaultText().orElse("")))
          .containsExactly(
              "",
              "CURRENT_TIMESTAMP",
              "CAST(CURRENT_TIMESTAMP AS DATE)",
              Computed.later(now().plus(Duration.ofDays(30))).toString());
      Instant before = Instant.now().minusMillis(1);
      add(table, 3);
      List<Row> rows = table.scan().rows().toList();
      assertThat(rows).hasSize(3);
      for (Row row : rows) {
        Instant written = row.getInstant("written_at");
        Instant until = row.getInstant("until").minus(Duration.ofDays(30));
        boolean isNew = row.getInt("n") == 3;
        assertThat(written.isAfter(before)).isEqualTo(isNew);
        assertThat(row.get("day")).isInstanceOf(LocalDate.class);
        assertThat(until.equals(written)).isEqualTo(row.getInt("n") > 1);
      }
      assertThat(table.scan().where(column("day").lessThan(LocalDate.of(2026, 1, 1))).count())
          .isZero();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }
}
