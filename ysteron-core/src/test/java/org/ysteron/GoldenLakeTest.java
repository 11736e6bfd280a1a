package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.FileVisitResult;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.SimpleFileVisitor;
import java.nio.file.attribute.BasicFileAttributes;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.report.TableVersion;

/**
 * A lake that an earlier build wrote and that every later one must read and go on with. It is kept
 * as files; {@link #main} wrote it.
 */
class GoldenLakeTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1");

  @TempDir Path directory;

  private static final Schema SCHEMA =
      Schema.of(
              Field.of("gauge_id", Types.text(12)).notNull(),
              Field.of("taken_at", Types.INSTANT).notNull(),
              Field.of("level_cm", Types.decimal(7, 1)),
              Field.of("wide", Types.decimal(30, 3)),
              Field.of("ratio", Types.DOUBLE),
              Field.of("tags", Types.mapOf(Types.text(), Types.INTEGER)),
              Field.of(
                  "sensors",
                  Types.listOf(
                      Types.struct(Field.of("kind", Types.text()), Field.of("depth", Types.REAL)))))
          .withKey("gauge_id", "taken_at");

  private static Object[] row(int n) {
    Schema sensor =
        Schema.stored(
            ((org.ysteron.data.Type.Struct)
                    ((org.ysteron.data.Type.ListOf) SCHEMA.columns().get(6).type())
                        .element()
                        .type())
                .fields(),
            List.of(),
            0);
    return new Object[] {
      "ORR-0" + n % 3,
      Instant.parse("2026-03-01T00:00:00Z").plusSeconds(600L * n),
      n % 4 == 0 ? null : new BigDecimal(n).setScale(1),
      new BigDecimal("12345678901234567890.125").add(new BigDecimal(n)).setScale(3),
      n % 5 == 0 ? Double.NaN : n / 4.0,
      n % 2 == 0 ? null : Map.of("n", n),
      List.of(Row.of(sensor.struct(), "kind " + n, n * 0.5f))
    };
  }

  /** Writes a lake to keep; run once for each format. */
  public static void main(String[] arguments) {
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.by("ada", "golden").createTable("tide.readings", SCHEMA);
      for (int commit = 0; commit < 3; commit++) {
        try (Append append = table.append()) {
          for (int n = commit * 10; n < commit * 10 + 10; n++) {
            append.add(row(n));
          }
          append.commit("commit " + commit);
        }
      }
      lake.createTable("tide.dropped", Schema.of(Field.of("n", Types.INTEGER)));
      lake.dropTable("tide.dropped");
      lake.renameTable("tide.readings", "tide.levels");
    }
  }

  private Lake open() throws IOException {
    return open(KEPT, directory.resolve("lake"));
  }

  /** Opens a copy of a kept lake. */
  static Lake open(Path kept, Path copy) throws IOException {
    Files.walkFileTree(
        kept,
        new SimpleFileVisitor<>() {
          @Override
          public FileVisitResult visitFile(Path file, BasicFileAttributes attributes)
              throws IOException {
            Path target = copy.resolve(kept.relativize(file).toString());
            Files.createDirectories(target.getParent());
            Files.copy(file, target);
            return FileVisitResult.CONTINUE;
          }
        });
    return Lake.open(copy);
  }

  @Test
  void aKeptLakeIsReadWholeAtEveryVersion() throws IOException {
    try (Lake lake = open()) {
      Table table = lake.table("tide.levels");
      assertThat(table.schema()).isEqualTo(SCHEMA);
      assertThat(table.now().version()).isEqualTo(4);
      for (int v = 0; v <= 3; v++) {
        int n = 0;
        for (Row row : table.at(v).scan().rows()) {
          assertThat(row).isEqualTo(Row.of(SCHEMA.struct(), row(n++)));
        }
        assertThat(n).isEqualTo(v * 10);
      }
      assertThat(table.history(10))
          .extracting(TableVersion::operation)
          .containsExactly("rename", "append", "append", "append", "create");
      assertThat(table.history(10).get(4).commit().author()).isEqualTo("ada");
      assertThat(lake.droppedTables()).hasSize(1);
      assertThat(lake.commits(100)).hasSize(8);
      assertThat(table.scan().where(Condition.column("level_cm").greaterThan(25)).count())
          .isEqualTo(3);
    }
  }

  @Test
  void aKeptLakeIsGoneOnWith() throws IOException {
    try (Lake lake = open()) {
      Table table = lake.table("tide.levels");
      try (Append append = table.append()) {
        append.add(row(30));
        append.commit();
      }
      assertThat(table.scan().count()).isEqualTo(31);
      lake.bringBackTable("tide.dropped");
      assertThat(lake.tables()).hasSize(2);
    }
  }
}
