package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.Consumer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Isolation;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/**
 * What two transactions may do beside each other. Table t.x has two files: keys 1 to 10, and 11 to
 * 20, each with value 100.
 */
class ConflictTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.INTEGER)).withKey("k");

  private final MemoryStore store = new MemoryStore();
  private Lake opened;
  private LakeHandle lake;
  private Table other;

  @BeforeEach
  void makeTable() {
    opened = Lake.create(store);
    lake = opened.by("ada", "test");
    Table table = lake.createTable("t.x", SCHEMA);
    for (int from = 1; from <= 11; from += 10) {
      try (Append append = table.append()) {
        for (int k = from; k < from + 10; k++) {
          append.add(k, 100);
        }
        append.commit();
      }
    }
    other = Lake.open(store).by("bert", "test").noting("meanwhile").table("t.x");
  }

  @AfterEach
  void close() {
    opened.close();
  }

  private Map<Integer, Integer> rows() {
    Map<Integer, Integer> rows = new TreeMap<>();
    for (Row row : lake.table("t.x").scan().rows()) {
      assertThat(rows.put((Integer) row.get(0), (Integer) row.get(1))).isNull();
    }
    return rows;
  }

  /** Begins, does something, lets somebody else do something, and commits. */
  private void race(Isolation isolation, Consumer<TransactionTable> mine, Runnable theirs) {
    try (Transaction work = lake.begin(isolation)) {
      mine.accept(work.table("t.x"));
      theirs.run();
      work.commit("mine");
    }
  }

  private void conflicts(Isolation isolation, Consumer<TransactionTable> mine, Runnable theirs) {
    Map<Integer, Integer> before = new TreeMap<>();
    assertThatThrownBy(
            () ->
                race(
                    isolation,
                    mine,
                    () -> {
                      theirs.run();
                      before.putAll(rows());
                    }))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("Table t.x")
        .hasMessageContaining("bert")
        .hasMessageContaining("Nothing was changed");
    assertThat(rows()).isEqualTo(before);
  }

  private static void add(TransactionTable table) {
    table.add(50, 1);
  }

  private void theyAppend(int k) {
    try (Append append = other.append()) {
      append.add(k, 7);
      append.commit();
    }
  }

  private void theyUpdate(int k, ChangeStyle style) {
    other.update().where(column("k").equalTo(k)).set("v", 7).style(style).run();
  }

  private void theyDelete(int k, ChangeStyle style) {
    other.delete().where(column("k").equalTo(k)).style(style).run();
  }

  private static void update(TransactionTable table, int k, ChangeStyle style) {
    table
        .update()
        .where(column("k").equalTo(k))
        .setBy("v", row -> (Integer) row.get("v") + 1)
        .style(style)
        .run();
  }

  private static int read(TransactionTable table, int k) {
    return table
        .scan()
        .where(column("k").equalTo(k))
        .rows()
        .next()
        .map(row -> (Integer) row.get("v"))
        .orElse(0);
  }

  private static List<ChangeStyle> styles() {
    return List.of(ChangeStyle.MASK, ChangeStyle.REWRITE);
  }

  @ParameterizedTest
  @EnumSource
  void anAppendGoesWithEverythingButADrop(Isolation isolation) {
    race(isolation, ConflictTest::add, () -> theyAppend(30));
    race(isolation, table -> table.add(51, 1), () -> theyUpdate(3, ChangeStyle.REWRITE));
    race(isolation, table -> table.add(52, 1), () -> theyDelete(4, ChangeStyle.MASK));
    assertThat(rows())
        .containsEntry(30, 7)
        .containsEntry(50, 1)
        .containsEntry(51, 1)
        .containsEntry(3, 7)
        .doesNotContainKey(4)
        .hasSize(23);
    conflictsWithDrop(isolation, table -> table.add(53, 1));
  }

  private void conflictsWithDrop(Isolation isolation, Consumer<TransactionTable> mine) {
    assertThatThrownBy(
            () -> race(isolation, mine, () -> Lake.open(store).by("bert", "x").dropTable("t.x")))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("was dropped")
        .hasMessageContaining("bert");
    lake.bringBackTable("t.x");
  }

  @ParameterizedTest
  @EnumSource
  void aDropStopsEveryKindOfWork(Isolation isolation) {
    conflictsWithDrop(isolation, table -> update(table, 3, ChangeStyle.MASK));
    conflictsWithDrop(
        isolation,
        table -> {
          assertThat(read(table, 3)).isEqualTo(100);
          table.add(60, 1);
        });
  }

  @ParameterizedTest
  @EnumSource
  void aRowChangeMeetsAnAppendThatItsConditionCouldMatch(Isolation isolation) {
    Consumer<TransactionTable> mine = table -> table.delete().where(column("k").atLeast(15)).run();
    race(isolation, mine, () -> theyAppend(0));
    assertThat(rows()).doesNotContainKey(15).containsKey(0);
    Consumer<TransactionTable> again = table -> table.delete().where(column("k").atLeast(12)).run();
    if (isolation == Isolation.SERIALIZABLE) {
      conflicts(isolation, again, () -> theyAppend(40));
    } else {
      race(isolation, again, () -> theyAppend(40));
      assertThat(rows()).containsKey(40).doesNotContainKey(12);
    }
  }

  @ParameterizedTest
  @EnumSource
  void aJavaTestCountsAsTheWholeTable(Isolation isolation) {
    Consumer<TransactionTable> mine =
        table -> table.delete().whereRow(row -> (Integer) row.get("k") == 2).run();
    if (isolation == Isolation.SERIALIZABLE) {
      conflicts(isolation, mine, () -> theyAppend(90));
    } else {
      race(isolation, mine, () -> theyAppend(90));
    }
  }

  @ParameterizedTest
  @EnumSource
  void rowChangesInOtherFilesAndOtherRowsOfOneFileUnite(Isolation isolation) {
    int k = 1;
    for (ChangeStyle mine : styles()) {
      for (ChangeStyle theirs : styles()) {
        int my = k++;
        int their = k++;
        race(isolation, table -> update(table, my, mine), () -> theyUpdate(my + 10, theirs));
        assertThat(rows()).containsEntry(my, 101).containsEntry(my + 10, 7).hasSize(20);
        race(isolation, table -> update(table, my, mine), () -> theyUpdate(their, theirs));
        assertThat(rows()).containsEntry(my, 102).containsEntry(their, 7).hasSize(20);
      }
    }
  }

  /** Both rewrite one file, and the one that comes second has changed its own copy once more. */
  @ParameterizedTest
  @EnumSource
  void twoRewritesOfOneFileUnite(Isolation isolation) {
    race(
        isolation,
        table -> {
          update(table, 2, ChangeStyle.REWRITE);
          update(table, 9, ChangeStyle.MASK);
          table.delete().where(column("k").equalTo(4)).run();
        },
        () -> theyUpdate(6, ChangeStyle.REWRITE));
    assertThat(rows())
        .containsEntry(2, 101)
        .containsEntry(9, 101)
        .containsEntry(6, 7)
        .doesNotContainKey(4)
        .hasSize(19);
    conflicts(
        isolation,
        table -> {
          update(table, 12, ChangeStyle.REWRITE);
          update(table, 13, ChangeStyle.MASK);
        },
        () -> theyUpdate(13, ChangeStyle.REWRITE));
  }

  @ParameterizedTest
  @EnumSource
  void aDeleteFollowsRowsThatWereMoved(Isolation isolation) {
    race(
        isolation,
        table -> table.delete().where(column("k").between(2, 3)).style(ChangeStyle.MASK).run(),
        () -> theyDelete(5, ChangeStyle.REWRITE));
    assertThat(rows()).doesNotContainKeys(2, 3, 5).hasSize(17);
    race(
        isolation,
        table -> table.delete().where(column("k").equalTo(12)).style(ChangeStyle.REWRITE).run(),
        () -> theyDelete(14, ChangeStyle.MASK));
    assertThat(rows()).doesNotContainKeys(12, 14).hasSize(15);
  }

  @ParameterizedTest
  @EnumSource
  void theSameRowIsAConflict(Isolation isolation) {
    for (ChangeStyle mine : styles()) {
      for (ChangeStyle theirs : styles()) {
        conflicts(isolation, table -> update(table, 6, mine), () -> theyUpdate(6, theirs));
        conflicts(
            isolation,
            table -> table.delete().where(column("k").equalTo(6)).style(mine).run(),
            () -> theyUpdate(6, theirs));
      }
      conflicts(isolation, table -> update(table, 7, mine), () -> theyDelete(7, mine));
      theyAppend(7);
    }
  }

  @ParameterizedTest
  @EnumSource
  void aFileThatWasDroppedWholeIsGone(Isolation isolation) {
    conflicts(
        isolation,
        table -> update(table, 6, ChangeStyle.MASK),
        () -> other.delete().where(column("k").lessThan(11)).run());
    conflicts(
        isolation,
        table -> table.delete().where(column("k").atLeast(11)).run(),
        () -> theyDelete(13, ChangeStyle.MASK));
  }

  @ParameterizedTest
  @EnumSource
  void aLostUpdateIsRefused(Isolation isolation) {
    conflicts(
        isolation,
        table -> {
          int seen = read(table, 8);
          table.update().where(column("k").equalTo(8)).set("v", seen + 10).run();
        },
        () -> theyUpdate(8, ChangeStyle.MASK));
  }

  /** Each reads the other's row and writes its own. */
  @ParameterizedTest
  @EnumSource
  void writeSkewAndSwapAreForSnapshotsOnly(Isolation isolation) {
    Consumer<TransactionTable> mine =
        table -> {
          int seen = read(table, 12);
          table.update().where(column("k").equalTo(2)).set("v", seen).run();
        };
    if (isolation == Isolation.SERIALIZABLE) {
      conflicts(isolation, mine, () -> theyUpdate(12, ChangeStyle.MASK));
    } else {
      race(isolation, mine, () -> theyUpdate(12, ChangeStyle.MASK));
      assertThat(rows()).containsEntry(2, 100).containsEntry(12, 7);
    }
  }

  @ParameterizedTest
  @EnumSource
  void aPhantomIsForSnapshotsOnly(Isolation isolation) {
    Consumer<TransactionTable> mine =
        table -> table.add(70, (int) table.scan().where(column("k").atLeast(20)).count());
    if (isolation == Isolation.SERIALIZABLE) {
      conflicts(isolation, mine, () -> theyAppend(33));
      conflicts(isolation, mine, () -> theyDelete(20, ChangeStyle.MASK));
    } else {
      race(isolation, mine, () -> theyAppend(33));
      assertThat(rows()).containsEntry(70, 1);
    }
  }

  /** A reader sees a state that no order of the two writers would make. */
  @ParameterizedTest
  @EnumSource
  void theReadOnlyAnomalyIsForSnapshotsOnly(Isolation isolation) {
    Runnable all =
        () ->
            race(
                isolation,
                table -> {
                  boolean poor = read(table, 1) + read(table, 11) < 150;
                  update(table, 1, ChangeStyle.MASK);
                  assertThat(poor).isFalse();
                },
                () -> {
                  theyUpdate(11, ChangeStyle.MASK);
                  // This one sees 7 in row 11 and 100 in row 1, so the other must come after it.
                  assertThat(rows()).containsEntry(11, 7).containsEntry(1, 100);
                });
    if (isolation == Isolation.SERIALIZABLE) {
      assertThatThrownBy(all::run).isInstanceOf(ConflictException.class);
    } else {
      assertThatCode(all::run).doesNotThrowAnyException();
    }
  }

  @ParameterizedTest
  @EnumSource
  void twoMergesOfOneNewKeyMeet(Isolation isolation) {
    Consumer<TransactionTable> mine =
        table ->
            table
                .upsert(MergeSource.values(List.of("k", "v"), to -> to.add(new Object[] {80, 1})))
                .run();
    conflicts(isolation, mine, () -> theyAppend(80));
    race(isolation, mine.andThen(table -> {}), () -> theyAppend(81));
    assertThat(rows()).containsKeys(80, 81);
  }

  @Test
  void aReadOnlyTransactionIsNeverRefused() {
    race(
        Isolation.SERIALIZABLE,
        table -> assertThat(table.scan().count()).isEqualTo(20),
        () -> theyUpdate(3, ChangeStyle.REWRITE));
  }

  @Test
  void aStatementAloneRunsAgainByItself() {
    int[] runs = {0};
    lake.table("t.x")
        .update()
        .where(column("k").atMost(5))
        .setBy(
            "v",
            row -> {
              if (runs[0]++ == 0) {
                theyUpdate(2, ChangeStyle.MASK);
              }
              return (Integer) row.get("v") + 1;
            })
        .run();
    assertThat(rows()).containsEntry(1, 101).containsEntry(2, 8);
    assertThat(runs[0]).isEqualTo(10);
  }

  @Test
  void workInATransactionRunsAgainByItself() {
    int[] runs = {0};
    int sum =
        lake.inTransaction(
            Isolation.SERIALIZABLE,
            work -> {
              TransactionTable table = work.table("t.x");
              int seen = read(table, 4);
              if (runs[0]++ == 0) {
                theyUpdate(4, ChangeStyle.MASK);
              }
              table.add(99, seen);
              return seen;
            });
    assertThat(runs[0]).isEqualTo(2);
    assertThat(sum).isEqualTo(7);
    assertThat(rows()).containsEntry(99, 7);
  }

  /** A table whose tree of files has inner pages, so that transactions make several pages each. */
  private Table wide(Lake in) {
    Schema schema = Schema.of(Field.of("id", Types.BIGINT).notNull(), Field.of("p", Types.BIGINT));
    Table wide =
        in.createTable(
            "t.wide", schema, TableSettings.DEFAULTS, LayoutPlan.none().rule("range p every 1"));
    try (Append append = wide.append()) {
      for (long file = 0; file < 300; file++) {
        append.add(2 * file, file);
        append.add(2 * file + 1, file);
      }
      append.commit();
    }
    return wide;
  }

  @Test
  void transactionsThatMakeEqualPagesDoNotMeet() throws Exception {
    try (Lake own = Lake.create(new MemoryStore())) {
      Table wide = wide(own);
      ExecutorService other = Executors.newSingleThreadExecutor();
      try (Transaction mine = own.begin()) {
        Transaction yours = other.submit(() -> own.begin()).get();
        mine.table("t.wide").delete().where(column("id").equalTo(5)).run();
        yours.table("t.wide").delete().where(column("id").equalTo(5)).run();
        mine.table("t.wide").delete().where(column("id").equalTo(505)).run();
        yours.table("t.wide").delete().where(column("id").equalTo(403)).run();
        assertThat(mine.table("t.wide").scan().count()).isEqualTo(598);
        assertThat(yours.table("t.wide").scan().count()).isEqualTo(598);
        yours.close();
        assertThat(mine.table("t.wide").scan().count()).isEqualTo(598);
        mine.commit();
      } finally {
        other.shutdown();
      }
      assertThat(wide.scan().count()).isEqualTo(598);
    }
  }
}
