package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.report.WriteResult;
import org.ysteron.store.LocalStore;

class LakeTest {
  @TempDir Path directory;
  private Lake lake;

  static final Schema READINGS =
      Schema.of(
              Field.of("gauge_id", Types.text(12)).notNull(),
              Field.of("taken_at", Types.INSTANT).notNull(),
              Field.of("level_cm", Types.decimal(7, 1)),
              Field.of("battery_mv", Types.INTEGER))
          .withKey("gauge_id", "taken_at");

  static final Instant NOON = Instant.parse("2026-03-01T12:00:00Z");

  @BeforeEach
  void makeLake() {
    lake = Lake.create(directory.resolve("lake"));
  }

  private static void append(Table table, int first, int count) {
    try (Append append = table.append()) {
      for (int i = first; i < first + count; i++) {
        append.add(
            "ORR-0" + i % 5,
            NOON.plusSeconds(i),
            new BigDecimal(i).movePointLeft(1),
            i % 7 == 0 ? null : i);
      }
      append.commit("rows from " + first);
    }
  }

  @Test
  void whatIsAppendedIsReadNowAndAsItWas() {
    Table table = lake.createTable("tide.readings", READINGS);
    append(table, 0, 100);
    append(table, 100, 50);
    assertThat(table.scan().count()).isEqualTo(150);
    assertThat(table.scan().rows().stream()).hasSize(150);
    assertThat(table.at(1).scan().rows().stream()).hasSize(100);
    assertThat(table.at(0).scan().rows().stream()).isEmpty();
    assertThat(table.history(10))
        .extracting(r -> r.operation())
        .containsExactly("append", "append", "create");
    Row first = table.scan().rows().next().orElseThrow();
    assertThat(first.values()).containsExactly("ORR-00", NOON, new BigDecimal("0.0"), null);
  }

  @Test
  void aTableIsCreatedOnce() {
    Table table = lake.createTableIfAbsent("tide.readings", READINGS);
    append(table, 0, 10);
    try (Lake other = Lake.open(directory.resolve("lake"))) {
      Table same = other.createTableIfAbsent("tide.readings", Schema.of(Field.of("x", Types.DATE)));
      assertThat(same.id()).isEqualTo(table.id());
      assertThat(same.now().version()).isEqualTo(1);
      assertThatThrownBy(() -> other.createTable("tide.readings", READINGS))
          .isInstanceOfSatisfying(
              AlreadyExistsException.class,
              e -> {
                assertThat(e.kind()).isEqualTo(AlreadyExistsException.Kind.TABLE);
                assertThat(e.name()).isEqualTo("tide.readings");
              });
    }
  }

  @Test
  void workWithoutAResultRunsInATransaction() {
    Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
    lake.runInTransaction(Isolation.SERIALIZABLE, work -> work.table("t.x").add(1));
    assertThat(table.scan().count()).isEqualTo(1);
    assertThat(table.now().version()).isEqualTo(1);
  }

  @Test
  void conditionsSelectRows() {
    Table table = lake.createTable("tide.readings", READINGS);
    append(table, 0, 100);
    assertThat(table.scan().where(column("battery_mv").greaterThan(90)).rows().stream())
        .extracting(row -> row.get("battery_mv"))
        .containsExactly(92, 93, 94, 95, 96, 97, 99);
    assertThat(table.scan().where(column("battery_mv").isNull()).count()).isEqualTo(15);
    assertThat(table.scan().columns("level_cm").limit(3).rows().stream().map(Row::toString))
        .containsExactly("{level_cm=0.0}", "{level_cm=0.1}", "{level_cm=0.2}");
  }

  @Test
  void aLakeIsReadByAnotherProcess() {
    append(lake.createTable("tide.readings", READINGS), 0, 10);
    try (Lake other = Lake.open(directory.resolve("lake"))) {
      assertThat(other.table("tide.readings").scan().rows().stream()).hasSize(10);
      assertThat(other.table("tide.readings").schema()).isEqualTo(READINGS);
    }
  }

  @Test
  void anAppendThatIsNotCommittedLeavesNothing() {
    Table table = lake.createTable("tide.readings", READINGS);
    try (Append append = table.append()) {
      append.add("ORR-01", NOON, null, 1);
    }
    assertThat(table.now().version()).isZero();
    assertThat(directory.resolve("lake/data"))
        .satisfiesAnyOf(
            p -> assertThat(p).doesNotExist(),
            p -> assertThat(p).isDirectoryNotContaining("regex:.*parquet"));
  }

  @Test
  void tablesAreDroppedRenamedAndBroughtBack() {
    Table table = lake.createTable("tide.readings", READINGS);
    append(table, 0, 10);
    lake.renameTable("tide.readings", "tide.levels");
    assertThat(table.scan().count()).isEqualTo(10);
    assertThatThrownBy(() -> lake.table("tide.readings"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("no table 'tide.readings'");
    lake.dropTable("tide.levels");
    assertThat(lake.tables()).isEmpty();
    assertThatThrownBy(table::scan).hasMessageContaining("was dropped");
    lake.bringBackTable("tide.levels");
    assertThat(lake.table("tide.levels").scan().count()).isEqualTo(10);
    assertThat(table.history(9)).hasSize(5);
  }

  @Test
  void aTableThatWasRenamedMeanwhileIsNotDroppedNorRenamedUnderItsOldName() {
    UUID id = lake.createTable("tide.readings", READINGS).id();
    Change drop = TableEdits.drop(id, "tide.readings");
    Change rename = TableEdits.rename(id, "tide.readings", "tide.heights");
    lake.renameTable("tide.readings", "tide.levels");
    LocalStore store = LocalStore.existing(directory.resolve("lake"));
    try (LakeCore core = LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      for (Change late : List.of(drop, rename)) {
        assertThatThrownBy(() -> core.commit(late, CommitNote.standard()))
            .isInstanceOf(NotFoundException.class)
            .hasMessageContaining(
                "Table tide.readings was renamed to tide.levels by another commit");
      }
    }
    assertThat(lake.table("tide.levels").now().version()).isEqualTo(1);
  }

  @Test
  void aWrongRowIsNamed() {
    Table table = lake.createTable("tide.readings", READINGS);
    try (Append append = table.append()) {
      append.add("ORR-01", NOON, null, 1);
      assertThatThrownBy(() -> append.add("ORR-01", NOON, "x", 1))
          .isInstanceOf(InvalidInputException.class)
          .hasMessage(
              "Row 2, column level_cm (DECIMAL(7, 1)): 'x' is a String, but DECIMAL(7, 1) takes a BigDecimal. Nothing was changed.");
    }
  }

  @Test
  void aLakeIsOpenedAsOfATime() {
    Table table = lake.createTable("tide.readings", READINGS);
    append(table, 0, 10);
    Instant then = lake.now().commit().time();
    append(table, 10, 10);
    assertThat(lake.at(then).table("tide.readings").scan().count()).isEqualTo(10);
    assertThat(table.at(then).version()).isEqualTo(1);
    assertThatThrownBy(() -> table.at(NOON.minusSeconds(1_000_000_000)))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("its first version, 0, is from");
  }

  record Reading(String gauge_id, Instant taken_at, BigDecimal level_cm) {}

  @Test
  void recordsGoInAndOut() {
    Table table = lake.createTable("tide.readings", READINGS);
    Reading reading = new Reading("ORR-01", NOON, new BigDecimal("12.5"));
    try (Append append = table.append()) {
      append.addRecord(reading);
      WriteResult committed = append.commit();
      assertThat(committed.versions()).containsEntry(table.id(), 1L);
    }
    assertThat(table.scan().records(Reading.class).stream()).containsExactly(reading);
  }
}
