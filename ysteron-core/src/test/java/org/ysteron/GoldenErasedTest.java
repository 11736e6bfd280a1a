package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.ChangeStyle;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.TableVersion;
import org.ysteron.store.LocalStore;

/**
 * A lake that was kept is read and changed on: rows were erased from it, and somebody was
 * interrupted while he erased others; a file that was lost for a while was taken out; the lake was
 * put back from a copy. {@link #main} made it.
 */
class GoldenErasedTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-erased");

  @TempDir private Path directory;

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) throws IOException {
    Path place = Path.of(arguments[0]);
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
    try (Lake lake = Lake.create(place)) {
      Table table = lake.createTable("t.x", schema);
      for (int file = 0; file < 4; file++) {
        append(table, 10 * file, 10);
      }
      table.delete().where(column("k").equalTo(15)).style(ChangeStyle.MASK).run();
      table.bookmark("noted", 3);
      table.erase(column("k").between(8, 12)).includingBookmarks().run();
      append(table, 40, 10);
      lake.confirmRestore();
      append(table, 50, 10);
      Path lost = place.resolve(table.now().files().get(0).name());
      byte[] content = Files.readAllBytes(lost);
      Files.delete(lost);
      assertThat(lake.mend().run().lost()).hasSize(1);
      Files.write(lost, content);
    }
    KilledStore.workUntil(
        LocalStore.existing(place),
        lake -> lake.table("t.x").erase(column("k").equalTo(44)).run(),
        lake -> lake.health().erasures().stream().anyMatch(open -> open.isCleared()));
  }

  private static void append(Table table, int first, int count) {
    try (Append append = table.append()) {
      for (int k = first; k < first + count; k++) {
        append.add(k, "row " + k);
      }
      append.commit("from " + first);
    }
  }

  private static List<Integer> keys(TableView view) {
    return view.scan().rows().stream().map(row -> (Integer) row.get("k")).sorted().toList();
  }

  @Test
  void whatWasErasedIsInNoVersion() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      List<TableVersion> history = table.history(100);
      assertThat(history.stream().map(TableVersion::operation))
          .containsExactly(
              "mend", "append", "append", "delete", "append", "append", "append", "append",
              "create");
      assertThat(history.stream().filter(TableVersion::isRedacted).map(TableVersion::version))
          .contains(1L, 2L, 3L, 4L, 5L);
      assertThat(history)
          .filteredOn(TableVersion::isRedacted)
          .allMatch(v -> v.commit().note().isEmpty());
      assertThat(keys(table.atBookmark("noted"))).doesNotContain(8, 9, 10, 11, 12).contains(7, 13);
      assertThat(keys(table.now())).doesNotContain(3, 10, 44).contains(13, 43, 59);
      assertThat(lake.health().erasures()).allMatch(open -> open.isCleared()).hasSize(1);
    }
  }

  @Test
  void itIsErasedOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      List<Integer> before = keys(table.now());
      assertThat(table.erase(column("k").equalTo(44)).run().rows()).isEqualTo(1);
      append(table, 60, 2);
      assertThat(table.erase(column("k").in(List.of(13, 60))).includingBookmarks().run().rows())
          .isEqualTo(2);
      assertThat(keys(table.now())).hasSize(before.size()).doesNotContain(13, 60).contains(61);
      for (Row row : table.atBookmark("noted").scan().rows()) {
        assertThat(row.get("k")).isNotEqualTo(13);
      }
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }
}
