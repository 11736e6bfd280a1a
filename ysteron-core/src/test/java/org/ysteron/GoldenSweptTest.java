package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Bookmark;
import org.ysteron.report.TableVersion;

/**
 * A lake that was kept is read and changed on: expired versions, bookmarks, pages that were copied,
 * a floor with the entries below it gone, what is free and not swept yet, settings. {@link #main}
 * made it.
 */
class GoldenSweptTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-swept");

  @TempDir private Path directory;

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      for (int file = 0; file < 6; file++) {
        append(table, 10 * file, 10);
      }
      table.bookmark("three", 3);
      lake.bookmark("whole");
      table.delete().where(column("k").lessThan(10)).style(ChangeStyle.REWRITE).run();
      table.delete().where(column("k").equalTo(15)).style(ChangeStyle.MASK).run();
      lake.set(TableSettings.KEEP_NEWEST, 2);
      lake.expire().run();
      lake.sweep().now().withEntries().run();
      append(table, 60, 10);
      table.delete().where(column("k").between(60, 64)).style(ChangeStyle.REWRITE).run();
      append(table, 70, 5);
      append(table, 75, 5);
      lake.createTable("t.gone", schema);
      lake.dropTable("t.gone");
      lake.expire().run();
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

  private static List<String> rows(TableView view) {
    return view.scan().rows().stream().map(Row::toString).sorted().toList();
  }

  @Test
  void whatIsKeptIsReadAndTheRestHasExpired() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(table.history(100).stream().map(TableVersion::version))
          .containsExactly(12L, 11L, 6L, 3L);
      assertThat(rows(table.now())).hasSize(64);
      assertThat(rows(table.at(11))).hasSize(59);
      assertThat(rows(table.atBookmark("three"))).hasSize(30);
      assertThat(rows(lake.atBookmark("whole").table("t.x"))).hasSize(60);
      assertThat(lake.bookmarks().stream().map(Bookmark::name)).containsExactly("three", "whole");
      assertThatThrownBy(() -> table.at(8))
          .isInstanceOf(ExpiredException.class)
          .hasMessageContaining("Version 8 of table t.x expired on ");
      assertThatThrownBy(() -> table.at(0)).isInstanceOf(ExpiredException.class);
      assertThat(lake.settings().retention().toString()).isEqualTo("the newest 2");
      assertThat(lake.droppedTables()).hasSize(1);
      assertThat(lake.health().floor()).isPositive();
    }
  }

  @Test
  void itIsSweptAndChangedOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      assertThat(lake.health().free().objects()).isPositive();
      SweepReport swept = lake.sweep().now().withEntries().run();
      assertThat(swept.deleted().get(SweepReport.Kind.FREED).objects()).isPositive();
      Table table = lake.table("t.x");
      append(table, 80, 5);
      assertThat(rows(table.now())).hasSize(69);
      assertThat(rows(table.atBookmark("three"))).hasSize(30);
      lake.dropBookmark("three");
      lake.expire().run();
      lake.sweep().now().withEntries().run();
      assertThat(rows(table.now())).hasSize(69);
    }
  }
}
