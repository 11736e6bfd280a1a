package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.history.ChangeCounts;
import org.ysteron.option.Isolation;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.Position;

/**
 * A lake that was kept is read and moved on: a position that was moved, one whose limit is over and
 * which has missed changes, one of a table that was dropped. {@link #main} made it.
 */
class GoldenPositionsTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-positions");

  @TempDir private Path directory;

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) throws InterruptedException {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      append(table, 0, 10);
      lake.createTable("t.sum", Schema.of(Field.of("rows", Types.BIGINT)));
      lake.createTable("t.gone", schema);
      lake.setPosition("sum", Map.of("t.x", 0L), Duration.ofDays(36_500));
      lake.setPosition("gone", "t.gone", "t.x");
      sum(lake);
      append(table, 10, 5);
      lake.setPosition("late", Map.of("t.x", 2L), Duration.ofMillis(1));
      table.delete().where(column("k").lessThan(3)).run();
      Thread.sleep(50);
      table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      table.update().where(column("k").equalTo(7)).set("t", "seven").run();
      lake.dropTable("t.gone");
      lake.sweep().now().withEntries().run();
    }
  }

  private static void append(Table table, int first, int count) {
    try (Append append = table.append()) {
      for (int k = first; k < first + count; k++) {
        append.add(k, "row " + k);
      }
      append.commit();
    }
  }

  private static void sum(Lake lake) {
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work -> {
          ChangeCounts counts = work.position("sum").changes("t.x").countExactly();
          work.table("t.sum").add(counts.inserted() - counts.deleted());
          work.position("sum").move();
        });
  }

  @Test
  void positionsAreReadAndMovedOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      assertThat(lake.positions().stream().map(Position::name))
          .containsExactly("gone", "late", "sum");
      assertThat(lake.position("sum").moves()).isEqualTo(1);
      try (Transaction work = lake.begin()) {
        assertThat(work.position("sum").changes("t.x").countExactly())
            .isEqualTo(new ChangeCounts(5, 3, 1, 0, true));
        assertThat(work.position("gone").droppedTables()).containsExactly("t.gone");
        assertThatThrownBy(() -> work.position("late").changes("t.x"))
            .isInstanceOf(ExpiredException.class)
            .hasMessageContaining("Position late has missed changes");
      }
      sum(lake);
      assertThat(lake.table("t.sum").scan().rows().stream().map(row -> row.get("rows")).toList())
          .isEqualTo(List.of(10L, 2L));
      lake.setPosition("late", "t.x");
      lake.runInTransaction(Isolation.SNAPSHOT, work -> work.position("gone").move());
      assertThat(lake.position("gone").tables()).hasSize(1);
      lake.table("t.x").expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      lake.sweep().now().withEntries().run();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }
}
