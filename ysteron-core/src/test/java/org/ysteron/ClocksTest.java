package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Duration;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/** Machines whose clocks are apart: nothing is called older than it may be. */
class ClocksTest {
  private final MemoryStore memory = new MemoryStore();
  private final ExpiryTest.SetClock right = new ExpiryTest.SetClock();
  private final ObjectStore store = YearOfUpkeepTest.at(memory, right);

  private static void append(Table table, int k) {
    try (Append append = table.append()) {
      append.add(k);
      append.commit();
    }
  }

  @Test
  void whatAMachineThatIsBehindHasJustDoneIsNotOld() {
    Clock behind = Clock.offset(right, Duration.ofDays(-30));
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.clock(right).threads(0));
        Lake late = Lake.open(store, LakeOptions.DEFAULTS.clock(behind).threads(0))) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      lake.set(TableSettings.KEEP_FOR, "P7D");
      append(table, 0);
      right.advance(Duration.ofDays(20));
      for (int k = 1; k < 8; k++) {
        append(late.table("t.x"), k);
        right.advance(Duration.ofMinutes(1));
      }
      assertThat(lake.health().clocks()).isEqualTo(new LakeHealth.Clocks(Optional.empty(), 7, 10));
      Append open = late.table("t.x").append().add(9);
      right.advance(Duration.ofMinutes(2));
      // Version 0 was superseded twenty days ago, by a clock that was right.
      assertThat(lake.expire().dryRun().versions()).isEqualTo(1);
      assertThat(lake.upkeep().run().expiry().versions()).isEqualTo(1);
      open.commit();
      append(table, 10);
      right.advance(Duration.ofDays(8));
      append(table, 11);
      // Now it is known for all of them that they are old.
      assertThat(lake.expire().run().versions()).isGreaterThan(7);
      assertThat(table.scan().count()).isEqualTo(11);
    }
  }

  @Test
  void oneCommitOfAMachineThatWasAheadMakesNothingOld() {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.clock(right).threads(0))) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      lake.set(TableSettings.KEEP_FOR, "P7D");
      for (int k = 0; k < 5; k++) {
        append(table, k);
        right.advance(Duration.ofMinutes(1));
      }
      right.advance(Duration.ofDays(400));
      append(table, 5);
      right.advance(Duration.ofDays(-400));
      for (int k = 6; k < 10; k++) {
        append(table, k);
        right.advance(Duration.ofMinutes(1));
      }
      assertThat(lake.health().clocks().ahead())
          .hasValueSatisfying(
              t -> assertThat(t).isAfter(right.instant().plus(Duration.ofDays(399))));
      assertThat(lake.upkeep().run().expiry().versions()).isZero();
      assertThat(table.history(100)).hasSizeGreaterThan(10);
      right.advance(Duration.ofDays(8));
      assertThat(lake.expire().run().versions()).isBetween(4L, 5L);
      right.advance(Duration.ofDays(400));
      append(table, 10);
      right.advance(Duration.ofDays(8));
      append(table, 11);
      assertThat(lake.expire().run().versions()).isPositive();
      assertThat(table.history(100)).hasSizeLessThan(4);
      assertThat(lake.check().run().findings()).isEmpty();
    }
  }
}
