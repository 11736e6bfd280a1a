package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/** Months of commits and upkeep, by the settings that nobody has set, on a clock that ticks. */
class YearOfUpkeepTest {
  private static final int MONTH = 30;

  /** How many days each runs at least: 365 gives years, which take some minutes in all. */
  private static final int LEAST_DAYS = Integer.getInteger("ysteron.upkeep.days", 0);

  /** A store whose time is that of a clock. */
  static ObjectStore at(ObjectStore store, Clock clock) {
    return new ForwardingStore(store) {
      @Override
      public Instant time() {
        return clock.instant();
      }
    };
  }

  private static long metadata(ObjectStore store) {
    return Stream.of("ledger", "pages", "floor")
        .flatMap(directory -> StoreContents.names(store, directory).stream())
        .mapToLong(name -> store.read(name).length)
        .sum();
  }

  @ParameterizedTest(name = "upkeep every {0} hours, {1} days")
  @CsvSource({"1, 35", "24, 40", "192, 40", "216, 40", "720, 62"})
  void metadataDoesNotGrowWithTheAgeOfALake(int hours, int days) {
    ExpiryTest.SetClock clock = new ExpiryTest.SetClock();
    MemoryStore memory = new MemoryStore();
    try (Lake lake = Lake.create(at(memory, clock), LakeOptions.DEFAULTS.clock(clock).threads(0))) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      lake.set(TableSettings.KEEP_NEWEST, 300);
      long afterAMonth = 0;
      for (int hour = 1; hour <= Math.max(days, LEAST_DAYS) * 24; hour++) {
        try (Append append = table.append()) {
          append.add(hour);
          append.commit();
        }
        clock.advance(Duration.ofHours(1));
        if (hour % hours == 0) {
          lake.upkeep().run();
        }
        if (hour == MONTH * 24) {
          lake.upkeep().run();
          afterAMonth = metadata(memory);
        }
      }
      lake.upkeep().run();
      assertThat(metadata(memory)).isLessThan(afterAMonth * 3 / 2);
      assertThat(table.history(1000)).hasSizeBetween(300, 301);
      assertThat(lake.check().run().findings()).isEmpty();
    }
  }
}
