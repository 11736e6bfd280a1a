package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.ChangeStyle;

/**
 * A kept lake with row masks, small ones and one in a page of its own, moved rows, a named writer
 * and labels; {@link #main} wrote it.
 */
class GoldenChangesTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-changes");
  private static final int ROWS = 3000;

  @TempDir Path directory;

  /** Writes a lake to keep. */
  public static void main(String[] arguments) {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.INTEGER));
    try (Lake opened = Lake.create(Path.of(arguments[0]))) {
      LakeHandle lake = opened.labelled("kept", "yes");
      Table table = lake.createTable("t.x", schema.withKey("k"));
      try (Append append = table.append()) {
        for (int k = 0; k < ROWS; k++) {
          append.add(k, 0);
        }
        append.commit();
      }
      table.delete().whereRow(row -> hashed(row) % 5 == 0).style(ChangeStyle.MASK).run();
      table.update().where(column("k").between(100, 109)).set("v", 1).style(ChangeStyle.MASK).run();
      table.delete().where(column("k").equalTo(104)).style(ChangeStyle.MASK).run();
      table.update().where(column("k").equalTo(7)).set("v", 2).style(ChangeStyle.REWRITE).run();
      table.openWriter("logger").append(4, rows -> rows.add(ROWS, 3));
      try (Transaction work = lake.begin()) {
        TransactionTable inside = work.table("t.x");
        inside.update().where(column("k").equalTo(202)).set("v", 4).style(ChangeStyle.MASK).run();
        inside.add(ROWS + 1, 5);
        inside.rewrite().run();
        inside.delete().where(column("k").equalTo(302)).style(ChangeStyle.MASK).run();
        work.commit("packed together with what it changed");
      }
      table.rewrite().run("only moved");
    }
  }

  private static int hashed(Row row) {
    return ((Integer) row.get("k") * 0x9E3779B9) >>> 20;
  }

  private static Map<Integer, Integer> expected(int version) {
    Map<Integer, Integer> rows = new TreeMap<>();
    for (int k = 0; k < ROWS && version > 0; k++) {
      boolean deleted = version > 1 && ((k * 0x9E3779B9) >>> 20) % 5 == 0;
      if (!deleted && !(k == 104 && version > 3)) {
        rows.put(k, version > 2 && k >= 100 && k < 110 ? 1 : version > 4 && k == 7 ? 2 : 0);
      }
    }
    if (version > 7) {
      rows.put(202, 4);
      rows.put(ROWS + 1, 5);
      rows.remove(302);
    }
    if (version > 6) {
      rows.put(ROWS, 3);
    }
    return rows;
  }

  private static Map<Integer, Integer> rows(TableView view) {
    Map<Integer, Integer> rows = new TreeMap<>();
    for (Row row : view.scan().rows()) {
      assertThat(rows.put((Integer) row.get("k"), (Integer) row.get("v"))).isNull();
    }
    return rows;
  }

  @Test
  void everyVersionIsRead() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(table.now().version()).isEqualTo(9);
      for (int v = 0; v <= 9; v++) {
        assertThat(rows(table.at(v))).as("version %d", v).isEqualTo(expected(v));
        assertThat(table.at(v).scan().count()).isEqualTo(expected(v).size());
      }
      assertThat(table.at(2).entries().get(0).numbers().maskedRows()).isGreaterThan(500);
      FileEntry packed = table.now().entries().get(0);
      assertThat(table.now().files()).hasSize(1);
      // Packed rows keep their births: of the first append, of updates, of the transaction.
      assertThat(packed.numbers().births().least()).isEqualTo(2);
      assertThat(packed.numbers().births().greatest()).isEqualTo(9);
      assertThat(packed.numbers().births().own()).isEqualTo(10);
      assertThat(table.now().page().record().marks().onlyMoved()).isTrue();
      assertThat(table.now().page().record().lives())
          .isEqualTo(table.at(8).page().record().lives());
      assertThat(lake.labels(lake.commits(1).get(0))).containsEntry("kept", "yes");
    }
  }

  @Test
  void itIsGoneOnWith() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      NamedWriter writer = table.openWriter("logger");
      assertThat(writer.session()).isEqualTo(2);
      assertThat(writer.append(4, rows -> rows.add(ROWS, 3)).committed()).isEmpty();
      table.update().where(column("k").between(101, 102)).set("v", 9).run();
      Map<Integer, Integer> after = expected(9);
      after.replaceAll((k, v) -> k == 101 || k == 102 ? (Integer) 9 : v);
      assertThat(rows(table.now())).isEqualTo(after);
    }
  }
}
