package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
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
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.TableStatistics;

/**
 * A lake that was kept is read and changed on: files packed from others and from rows that were
 * masked, a layout along a curve, with its quantiles, and files in its order. {@link #main} made
 * it.
 */
class GoldenPackedTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-packed");

  @TempDir private Path directory;

  /** Makes the lake in a directory that is there. */
  public static void main(String[] arguments) {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      for (int file = 0; file < 12; file++) {
        append(table, 10 * file, 10);
      }
      table.delete().where(column("k").between(5, 6)).style(ChangeStyle.MASK).run();
      table.compact().run();
      table.alter().layout(LayoutPlan.none().rule("range k every 64").along("k", "t")).run();
      append(table, 120, 10);
      table.compact().renewing().run();
      table.measure();
    }
  }

  private static void append(Table table, int first, int count) {
    try (Append append = table.append()) {
      for (int k = first; k < first + count; k++) {
        append.add(k, "row " + k * 31 % 100);
      }
      append.commit();
    }
  }

  private static List<String> rows(TableView view) {
    return view.scan().rows().stream().map(Row::toString).sorted().toList();
  }

  @Test
  void everyVersionIsRead() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(table.at(12).files()).hasSize(12);
      assertThat(table.at(14).files()).hasSize(1).allMatch(file -> file.maskedRows() == 0);
      assertThat(table.at(14).record().operation()).isEqualTo("compact");
      assertThat(rows(table.at(14))).isEqualTo(rows(table.at(13))).hasSize(118);
      assertThat(rows(table.now())).isEqualTo(rows(table.at(16))).hasSize(128);
      TableStatistics found = table.now().statistics().orElseThrow();
      assertThat(found.version()).isEqualTo(table.now().version() - 1);
      assertThat(found.rows()).isEqualTo(128);
      assertThat(found.columns().get(0).distinct()).isEqualTo(128);
      assertThat(found.columns().get(1).frequent()).isNotEmpty();
      assertThat(table.at(14).statistics()).isEmpty();
      assertThat(table.now().layouts().get(1L).toString())
          .isEqualTo("range k every 64; along a curve over k, t");
      assertThat(table.now().layouts().get(1L).curve().get(0)).startsWith("k at 0, ");
    }
  }

  @Test
  void itIsChangedOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      append(table, 130, 10);
      table.update().where(column("k").equalTo(7)).set("t", "new").run();
      CompactionReport report = table.compact().full().run();
      assertThat(report.commits()).isNotEmpty();
      assertThat(report.skipped()).isEmpty();
      assertThat(rows(table.now())).hasSize(138).contains("{k=7, t=new}");
      assertThat(table.now().statistics().orElseThrow().rows()).isEqualTo(128);
      assertThat(table.compact().renewing().run()).isEqualTo(CompactionReport.NOTHING);
    }
  }
}
