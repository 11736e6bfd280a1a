package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.copying.SmallCopies;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Budget;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;

/** The ledger is trimmed to its end, whatever stopped a trim, and budgets are kept. */
class TrimTest {
  private final MemoryStore store = new MemoryStore();
  private final AtomicBoolean dies = new AtomicBoolean();
  private final Lake lake =
      Lake.create(
          new ForwardingStore(store) {
            @Override
            public void deleteAll(List<String> names) {
              if (dies.get() && names.get(0).startsWith("ledger/")) {
                throw new IllegalStateException("killed");
              }
              super.deleteAll(names);
            }
          },
          LakeOptions.DEFAULTS.threads(0));
  private final Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));

  @AfterEach
  void close() {
    lake.close();
  }

  private void makeVersions(int count) {
    for (int i = 0; i < count; i++) {
      table.alter().comment("k", "version " + i).run();
    }
    table.expire().keeping(Retention.EVERYTHING.andNewest(2)).run();
  }

  private int entries() {
    return StoreContents.names(store, "ledger").size();
  }

  private static long entriesOf(SweepReport report) {
    return report.deleted().getOrDefault(SweepReport.Kind.ENTRY, SweepReport.Amount.NONE).objects();
  }

  @Test
  void aTrimThatABudgetEndedIsGoneOnWith() {
    makeVersions(60);
    SweepReport some = lake.sweep().now().withEntries().within(Budget.ALL.ofFiles(7)).run();
    assertThat(some.isSpent()).isTrue();
    assertThat(some.all().objects()).isEqualTo(7);
    assertThat(entries()).isGreaterThan(50);
    SweepReport more = lake.sweep().within(Budget.ALL.ofBytes(1)).run();
    assertThat(more.all().objects()).isEqualTo(1);
    assertThat(entriesOf(lake.sweep().dryRun())).isGreaterThan(40);
    lake.sweep().run();
    assertThat(entries()).isLessThan(10);
    assertThat(lake.check().run().findings()).isEmpty();
  }

  @Test
  void aTrimWhoseProcessWasKilledBehindTheFloorIsGoneOnWithByAnother() {
    makeVersions(60);
    dies.set(true);
    assertThatThrownBy(() -> lake.sweep().now().withEntries().run())
        .isInstanceOf(IllegalStateException.class);
    dies.set(false);
    assertThat(entries()).isGreaterThan(60);
    try (Lake other = Lake.open(store)) {
      other.table("t.x").alter().comment("k", "another").run();
      other.sweep().run();
      assertThat(entries()).isLessThan(10);
    }
  }

  @Test
  void whatASleeperMakesBelowTheFloorGoesWithTheNextSweep() {
    makeVersions(30);
    String early = StoreContents.names(store, "ledger").first();
    byte[] bytes = store.read(early);
    lake.sweep().now().withEntries().run();
    assertThat(StoreContents.names(store, "ledger")).doesNotContain(early);
    store.createIfAbsent(early, bytes);
    assertThat(entriesOf(lake.sweep().run())).isEqualTo(1);
    assertThat(StoreContents.names(store, "ledger")).doesNotContain(early);
  }

  @Test
  void floorsThatAreSetFasterThanTheHorizonPassesThemAreCarriedOutInTheirTurn() {
    try (SmallCopies small = new SmallCopies(true, false)) {
      assertThat(small).isNotNull();
      ExpiryTest.SetClock clock = new ExpiryTest.SetClock();
      MemoryStore memory = new MemoryStore();
      try (Lake ticking =
          Lake.create(
              YearOfUpkeepTest.at(memory, clock), LakeOptions.DEFAULTS.clock(clock).threads(0))) {
        Table t = ticking.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
        ticking.set(TableSettings.KEEP_NEWEST, 2);
        for (int hour = 0; hour < 40 * 24; hour++) {
          clock.advance(Duration.ofHours(1));
          t.alter().set(TableSettings.KEEP_NEWEST, 2 + hour % 2).run();
          if (hour % 3 == 0) {
            ticking.upkeep().run();
          }
        }
        // A week until the horizon passes a commit, a week that a floor lies behind its commit.
        Instant oldest = ticking.commits(100_000).stream().reduce((a, b) -> b).get().time();
        assertThat(oldest).isAfter(clock.instant().minus(Duration.ofDays(17)));
        assertThat(ticking.check().run().findings()).isEmpty();
      }
    }
  }
}
