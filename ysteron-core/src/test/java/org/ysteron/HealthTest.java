package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.maintenance.TableHealth.Kind;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.TableFile;
import org.ysteron.store.MemoryStore;

class HealthTest {
  private final Lake lake = Lake.create(new MemoryStore());
  private final Table table =
      lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text())));

  @AfterEach
  void close() {
    lake.close();
  }

  private void append(int first, int count) {
    try (Append append = table.append()) {
      for (int k = first; k < first + count; k++) {
        append.add(k, "row " + k);
      }
      append.commit();
    }
  }

  private TableHealth.Finding finding(Kind kind) {
    return table.health().findings().stream()
        .filter(finding -> finding.kind() == kind)
        .findFirst()
        .orElseThrow();
  }

  @Test
  void aTableThatIsWellHasNoFindings() {
    assertThat(table.health().findings()).isEmpty();
    assertThat(table.health().metadata()).isEqualTo(new TableHealth.Metadata(0, 0, 0));
    append(0, 10);
    TableHealth health = table.health();
    assertThat(health.findings()).isEmpty();
    assertThat(health.totals().rows()).isEqualTo(10);
    assertThat(health.metadata().pages()).isEqualTo(1);
    assertThat(health.olderBytes()).isZero();
  }

  @Test
  void whatItSaysOfPackingIsWhatPackingDoes() {
    for (int f = 0; f < 9; f++) {
      append(10 * f, 10);
    }
    assertThat(finding(Kind.SMALL_FILES).costBytes()).isZero();
    append(90, 10);
    TableHealth.Finding small = finding(Kind.SMALL_FILES);
    assertThat(small.files()).isEqualTo(10);
    assertThat(small.rows()).isEqualTo(100);
    long before = table.now().files().stream().mapToLong(TableFile::bytes).sum();
    CompactionReport report = table.compact().run();
    assertThat(report.read().bytes()).isEqualTo(small.costBytes()).isEqualTo(before);
    assertThat(report.read().files() - report.written().files()).isEqualTo(small.savesFiles());
    TableHealth after = table.health();
    assertThat(after.findings()).isEmpty();
    assertThat(after.olderBytes()).isEqualTo(before);
  }

  @Test
  void masksAndOldFormsAndLostOrderAreFound() {
    append(0, 100);
    append(100, 100);
    table.delete().where(column("k").lessThan(30)).style(ChangeStyle.MASK).run();
    assertThat(finding(Kind.MASKED_ROWS).rows()).isEqualTo(30);
    assertThat(finding(Kind.MASKED_ROWS).files()).isEqualTo(1);
    table.alter().add(Field.of("n", Types.INTEGER)).run();
    assertThat(finding(Kind.OLD_SCHEMA).files()).isEqualTo(2);
    table.alter().layout(LayoutPlan.none().sortedBy("t")).run();
    assertThat(finding(Kind.OLD_LAYOUT).rows()).isEqualTo(170);
    assertThat(finding(Kind.OLD_LAYOUT).costBytes()).isPositive();
    table.compact().renewing().run();
    assertThat(table.health().findings()).isEmpty();
    table.alter().set(TableSettings.FILE_BYTES, 1024).run();
    table.update().where(column("k").equalTo(150)).set("t", "new").style(ChangeStyle.REWRITE).run();
    assertThat(table.health().findings()).extracting("kind").doesNotContain(Kind.OUT_OF_ORDER);
  }
}
