package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.TableStatistics;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;

class MeasureTest {
  private final AtomicInteger opened = new AtomicInteger();
  private final Lake lake =
      Lake.create(
          new ForwardingStore(new MemoryStore()) {
            @Override
            public ObjectInput open(String name) {
              opened.addAndGet(name.startsWith("data/") ? 1 : 0);
              return super.open(name);
            }
          },
          LakeOptions.DEFAULTS.threads(2));

  @AfterEach
  void close() {
    lake.close();
  }

  private Table numbers(int rows) {
    Table table =
        lake.createTable(
            "t.n",
            Schema.of(
                Field.of("k", Types.INTEGER),
                Field.of("skewed", Types.BIGINT),
                Field.of("x", Types.DOUBLE),
                Field.of("t", Types.text())));
    Random random = new Random(7);
    try (Append append = table.append()) {
      for (int k = 0; k < rows; k++) {
        long skewed = k % 2 == 0 ? 5 : random.nextInt(1_000_000);
        Object x = k % 10 == 0 ? null : k % 11 == 0 ? Double.NaN : (Object) random.nextDouble();
        append.add(k, skewed, x, k % 4 == 0 ? "often" : "text " + k);
      }
      append.commit();
    }
    return table;
  }

  @Test
  void whatIsToldIsNearlyTrue() {
    Table table = numbers(100_000);
    TableStatistics found = table.measure();
    assertThat(found.version()).isEqualTo(1);
    assertThat(found.rows()).isEqualTo(100_000);
    assertThat(found.time()).isEqualTo(table.at(1).record().commit().time());
    TableStatistics.Column k = found.columns().get(0);
    assertThat(k.distinct()).isBetween(95_000L, 105_000L);
    for (int q = 0; q <= 16; q++) {
      int expected = (int) (99_999L * q / 16);
      assertThat((Integer) k.quantiles().get(q)).isBetween(expected - 2000, expected + 2000);
    }
    assertThat(k.quantiles().get(0)).isEqualTo(0);
    assertThat(k.quantiles().get(16)).isEqualTo(99_999);
    TableStatistics.Column skewed = found.columns().get(1);
    assertThat(skewed.frequent().get(0).value()).isEqualTo(5L);
    assertThat(skewed.frequent().get(0).count()).isBetween(49_000L, 50_100L);
    TableStatistics.Column x = found.columns().get(2);
    assertThat(x.nulls()).isEqualTo(10_000);
    assertThat((Double) x.quantiles().get(8)).isBetween(0.45, 0.55);
    TableStatistics.Column t = found.columns().get(3);
    assertThat(t.distinct()).isBetween(72_000L, 78_000L);
    assertThat(t.frequent().get(0).value()).isEqualTo("often");
    assertThat(table.now().record().operation()).isEqualTo("measure");
  }

  @Test
  void itIsKeptAndFollowsItsColumns() {
    Table table = numbers(100);
    TableStatistics found = table.measure("k", "t");
    assertThat(table.now().statistics()).isEqualTo(Optional.of(found));
    assertThat(table.at(1).statistics()).isEmpty();
    table.delete().where(column("k").lessThan(50)).run();
    table.alter().rename("k", "key").drop("t").run();
    TableStatistics later = table.now().statistics().orElseThrow();
    assertThat(later.rows()).isEqualTo(100);
    assertThat(later.columns()).extracting(TableStatistics.Column::path).containsExactly("key");
    table.rewind().to(1).run();
    assertThat(table.now().statistics()).isPresent();
    assertThat(table.measure("t").columns()).hasSize(1);
    assertThat(table.now().statistics().orElseThrow().columns()).hasSize(1);
  }

  @Test
  void aCurveTakesItsQuantilesFromIt() {
    Table table = numbers(1000);
    table.measure("k", "skewed");
    opened.set(0);
    table.alter().layout(LayoutPlan.none().along("k", "skewed")).run();
    assertThat(opened.get()).isZero();
    List<String> curve = table.now().layouts().get(1L).curve();
    assertThat(curve.get(0)).startsWith("k at 0, ");
    assertThat(curve.get(1)).startsWith("skewed at 5, ");
    // Of a table that has become another one it is not taken.
    table.delete().where(column("k").lessThan(500)).run();
    opened.set(0);
    table.alter().layout(LayoutPlan.none().along("skewed", "k")).run();
    assertThat(opened.get()).isPositive();
    assertThat(table.now().layouts().get(2L).curve().get(1)).startsWith("k at 500, ");
  }

  @Test
  void everyTypeOfSingleValuesIsMeasured() {
    Type.Struct inside = (Type.Struct) Types.struct(Field.of("u", Types.UUID));
    Table table =
        lake.createTable(
            "t.all",
            Schema.of(
                Field.of("b", Types.BOOLEAN),
                Field.of("d", Types.decimal(30, 3)),
                Field.of("small", Types.decimal(5, 1)),
                Field.of("r", Types.REAL),
                Field.of("bytes", Types.BINARY),
                Field.of("day", Types.DATE),
                Field.of("time", Types.TIME),
                Field.of("at", Types.INSTANT),
                Field.of("long", Types.text()),
                Field.of("s", inside),
                Field.of("j", Types.JSON),
                Field.of("l", Types.listOf(Types.INTEGER))));
    try (Append append = table.append()) {
      for (int i = 0; i < 20; i++) {
        append.add(
            i % 2 == 0,
            new java.math.BigDecimal(i - 10),
            new java.math.BigDecimal("0.5"),
            i / 3f,
            new byte[] {(byte) i, -1},
            java.time.LocalDate.EPOCH.plusDays(i),
            java.time.LocalTime.NOON.plusSeconds(i),
            Instant.EPOCH.plusSeconds(i),
            "\u00e4\ud83d\ude00".repeat(30) + i,
            Row.of(inside, new UUID(i, i)),
            "{}",
            List.of(i));
      }
      append.commit();
    }
    TableStatistics found = table.measure();
    assertThat(found.columns())
        .extracting(TableStatistics.Column::path)
        .containsExactly("b", "d", "small", "r", "bytes", "day", "time", "at", "long", "s.u");
    assertThat(found.columns())
        .filteredOn(column -> !List.of("b", "small").contains(column.path()))
        .allSatisfy(column -> assertThat(column.distinct()).isEqualTo(20));
    assertThat(found.columns()).allSatisfy(c -> assertThat(c.quantiles()).hasSize(17));
    assertThat((String) found.columns().get(8).quantiles().get(0)).hasSizeLessThan(64);
    assertThat(table.now().statistics().orElseThrow().columns().get(5).quantiles().get(16))
        .isEqualTo(java.time.LocalDate.EPOCH.plusDays(19));
    assertThatThrownBy(() -> table.measure("l"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Column l is");
    assertThatThrownBy(() -> table.measure("none")).isInstanceOf(NotFoundException.class);
  }

  @Test
  void tooManyColumnsAreRefused() {
    Field[] fields = new Field[201];
    for (int i = 0; i < fields.length; i++) {
      fields[i] = Field.of("c" + i, Types.INTEGER);
    }
    Table table = lake.createTable("t.wide", Schema.of(fields));
    assertThatThrownBy(table::measure)
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("201 columns of table t.wide cannot be measured at once");
    assertThat(table.measure("c0", "c200").rows()).isZero();
  }
}
