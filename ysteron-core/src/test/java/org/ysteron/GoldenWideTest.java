package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.KeyExistsException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.report.DuplicateRow;

/**
 * A kept lake with a schema in a page of its own, pages in objects of their own, rows that a commit
 * left out, and rows merged from another table and from the table itself; {@link #main} wrote it.
 */
class GoldenWideTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-wide");
  private static final int WIDE = 100;

  @TempDir Path directory;

  /** Writes a lake to keep. */
  public static void main(String[] arguments) {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.INTEGER));
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      List<Field> fields = new ArrayList<>(schema.columns());
      for (int c = 2; c < WIDE; c++) {
        fields.add(Field.of("c" + c, Types.INTEGER).withComment("about it " + "-".repeat(2700)));
      }
      Table wide = lake.createTable("t.wide", Schema.of(fields).withKey("k"));
      Table narrow = lake.createTable("t.narrow", schema.withKey("k"));
      try (Append append = narrow.append(WriteRules::skippingRejected)) {
        for (int k = 0; k < 20; k++) {
          append.add(k, k % 7);
        }
        narrow.alter().check("low", column("v").lessThan(5)).run();
        append.commit();
      }
      narrow.alter().layout(LayoutPlan.none().rule("hash k into 2")).run();
      wide.upsert(MergeSource.scan(narrow.scan())).run();
      wide.alter().setDefault("c2", 5).run();
      wide.upsert(MergeSource.scan(narrow.scan().where(column("k").lessThan(3)))).run();
      narrow
          .merge(MergeSource.scan(narrow.scan().where(column("v").equalTo(3))))
          .matched(Merge.setBy(Map.of("v", (row, given) -> (Integer) given.get("v") + 1)))
          .style(ChangeStyle.MASK)
          .run();
      Table doubled = lake.createTable("t.doubled", schema.withKey("k"));
      doubled.alter().set(TableSettings.KEY_TEST, "within_writes").run();
      for (int v = 0; v < 2; v++) {
        try (Append append = doubled.append()) {
          append.add(v, v);
          append.add(7, v);
          append.commit();
        }
      }
    }
  }

  private static List<String> rows(Scan scan) {
    List<String> rows = new ArrayList<>();
    for (Row row : scan.columns("k", "v").rows()) {
      rows.add(row.get(0) + ":" + row.get(1));
    }
    java.util.Collections.sort(rows);
    return rows;
  }

  /** What is in t.narrow after the append, which left out 5, 6, 12, 13 and 19. */
  private static List<String> taken(int threes) {
    List<String> rows = new ArrayList<>();
    for (int k = 0; k < 20; k++) {
      if (k % 7 < 5) {
        rows.add(k + ":" + (k % 7 == 3 ? threes : k % 7));
      }
    }
    java.util.Collections.sort(rows);
    return rows;
  }

  @Test
  void everyVersionIsRead() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table narrow = lake.table("t.narrow");
      assertThat(narrow.at(2).entries().get(0).numbers().maskedRows()).isEqualTo(5);
      assertThat(rows(narrow.at(1).scan())).isEmpty();
      assertThat(rows(narrow.at(2).scan())).isEqualTo(taken(3));
      assertThat(rows(narrow.scan())).isEqualTo(taken(4));
      assertThat(narrow.now().record().totals().rows()).isEqualTo(15);
      Table wide = lake.table("t.wide");
      assertThat(wide.schema().columns()).hasSize(WIDE);
      assertThat(wide.at(1).schema().find("c2").writeDefault()).isEmpty();
      assertThat(wide.schema().find("c2").writeDefault()).contains(5);
      assertThat(wide.schema().find("c9").comment()).startsWith("about it ---");
      assertThat(rows(wide.at(1).scan())).isEqualTo(taken(3));
      assertThat(rows(wide.scan())).isEqualTo(taken(3));
    }
  }

  @Test
  void keysAreTestedByTheSettingThatWasKept() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table doubled = lake.table("t.doubled");
      List<DuplicateRow> rows = doubled.now().duplicates(10);
      assertThat(rows).extracting(DuplicateRow::serial).containsExactly(1L, 3L);
      assertThatThrownBy(() -> doubled.alter().set(TableSettings.KEY_TEST, "exact").run())
          .hasMessageContaining("k = 7");
      doubled.delete().whereSerial(Set.of(1L)).run();
      doubled.alter().set(TableSettings.KEY_TEST, "exact").run();
      assertThat(rows(doubled.scan())).containsExactly("0:0", "1:1", "7:1");
      Table narrow = lake.table("t.narrow"); // without the setting
      try (Append append = narrow.append()) {
        append.add(3, 1);
        assertThatThrownBy(append::commit).isInstanceOf(KeyExistsException.class);
      }
    }
  }

  @Test
  void itIsGoneOnWith() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table wide = lake.table("t.wide");
      wide.alter().drop("c3").run();
      wide.upsert(MergeSource.scan(lake.table("t.narrow").scan())).run();
      assertThat(wide.schema().columns()).hasSize(WIDE - 1);
      assertThat(rows(wide.scan())).isEqualTo(taken(4));
    }
  }
}
