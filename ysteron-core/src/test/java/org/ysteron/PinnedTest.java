package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.Map;
import java.util.function.Function;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.report.TableFile;
import org.ysteron.store.MemoryStore;

/**
 * A version that is kept is read by who pinned it before its pages were copied elsewhere and the
 * entries that held them went.
 */
class PinnedTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT));

  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1));
  private Table table;

  @AfterEach
  void close() {
    lake.close();
  }

  private static void add(Table table, int from, int to) {
    try (Append append = table.append()) {
      for (int k = from; k < to; k++) {
        append.addObject(Map.of("k", k, "v", k % 7L));
      }
      append.commit();
    }
  }

  @BeforeEach
  void makeTable() {
    table = lake.createTable("t.x", SCHEMA);
    for (int i = 0; i < 5; i++) {
      add(table, i * 1000, i * 1000 + 1000);
    }
    table.alter().layout(LayoutPlan.none().hash("k", 3)).run();
    add(table, 5000, 6000);
    table.alter().layout(LayoutPlan.none().along("k", "v")).run();
    table.alter().add(Field.of("w", Types.INTEGER)).run();
    add(table, 6000, 7000);
    table.delete().whereRow(row -> row.getInt("k") % 3 == 0).style(ChangeStyle.MASK).run();
    table.measure();
  }

  private void copyForward() {
    add(table, 20_000, 20_100);
    lake.sweep().now().withEntries().run();
    lake.sweep().now().withEntries().run();
  }

  static Stream<Function<TableView, Object>> uses() {
    return Stream.of(
        view -> view.scan().count(),
        view -> view.scan().where(column("k").lessThan(500)).count(),
        view -> view.scan().rows().toList().size(),
        view -> view.files().stream().map(TableFile::name).toList(),
        TableView::statistics,
        view -> view.layouts().toString(),
        view -> view.filesOfLayout(0),
        view -> view.history(99),
        view -> view.scan().tasks().size(),
        view -> view.scan().where(column("k").lessThan(500)).explain().opened());
  }

  @ParameterizedTest
  @MethodSource("uses")
  void aKeptVersionIsReadWhereItIsNow(Function<TableView, Object> use) {
    try (Lake cold = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      TableView pinned = cold.table("t.x").now();
      Object expected = use.apply(table.now());
      copyForward();
      assertThat(use.apply(pinned)).isEqualTo(expected);
    }
  }

  @Test
  void aFollowerReadsWhatWasCopied() {
    try (Lake cold = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      long last = table.now().version();
      Follower follower = cold.table("t.x").follow(last - 1);
      Follower.Step step = follower.poll().orElseThrow();
      copyForward();
      assertThat(step.rows().toList()).isEmpty();
      assertThat(follower.poll().orElseThrow().rows().toList()).hasSize(100);
      assertThat(follower.poll()).isEmpty();
    }
  }

  @Test
  void aFollowerDoesNotPassWhatItCouldNotDeliver() {
    add(table, 30_000, 30_010);
    long last = table.now().version();
    Follower follower = table.follow(last - 1);
    Follower.Step step = follower.poll().orElseThrow();
    assertThat(follower.version()).isEqualTo(last);
    add(table, 30_010, 30_020);
    table.compact().full().run();
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    lake.sweep().now().run();
    assertThatThrownBy(() -> step.rows().toList()).isInstanceOf(ExpiredException.class);
    assertThat(follower.version()).isEqualTo(last - 1);
    assertThatThrownBy(follower::poll).isInstanceOf(ExpiredException.class);
  }

  @Test
  void commitsAreListedDownToTheFloorWhereverTheirPagesAre() {
    try (SmallEntries small = new SmallEntries(1)) {
      for (int i = 0; i < 60; i++) {
        add(table, 0, 1);
        if (i % 5 == 4) {
          table.expire().keeping(Retention.EVERYTHING.andNewest(3)).run();
          lake.sweep().now().withEntries().run();
          assertThat(lake.commits(1_000_000)).isNotEmpty();
        }
      }
      assertThat(small).isNotNull();
    }
  }
}
