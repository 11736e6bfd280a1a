package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.LakeOptions;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/** Copying pages forward ends beside who commits all the time, and costs what it copies. */
class CopyingTest {
  private static final int TABLES = 12;
  private static final int COMMITS = 900;

  /** A store that counts what goes into objects of pages, and lets another one commit first. */
  private static final class Busy extends ForwardingStore {
    private final AtomicLong pages = new AtomicLong();
    private Runnable first = () -> {};

    Busy(ObjectStore store) {
      super(store);
    }

    @Override
    public boolean createIfAbsent(String name, byte[] content) {
      if (name.startsWith("pages/")) {
        pages.addAndGet(content.length);
      } else if (name.startsWith("ledger/")) {
        first.run();
      }
      return super.createIfAbsent(name, content);
    }
  }

  private static MemoryStore lakeWithManyVersions() {
    MemoryStore store = new MemoryStore();
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(0))) {
      List<Table> tables = new ArrayList<>();
      for (int t = 0; t < TABLES; t++) {
        tables.add(lake.createTable("t.x" + t, Schema.of(Field.of("k", Types.INTEGER))));
      }
      for (int i = 0; i < COMMITS; i++) {
        // Most versions are of one table, whose history is then copied in steps, too.
        Table table = tables.get(i % 3 == 0 ? i % TABLES : 0);
        table.alter().comment("k", "commit " + i).run();
      }
    }
    return store;
  }

  private static long copied(MemoryStore store, boolean isBusy) {
    Busy busy = new Busy(store);
    try (Lake sweeper = Lake.open(busy, LakeOptions.DEFAULTS.threads(0));
        Lake other = Lake.open(store, LakeOptions.DEFAULTS.threads(0))) {
      AtomicInteger offers = new AtomicInteger();
      if (isBusy) {
        // Two of three entries that the sweep offers come too late.
        busy.first =
            () -> {
              if (offers.incrementAndGet() % 3 != 0) {
                other.table("t.x1").alter().comment("k", "meanwhile " + offers.get()).run();
              }
            };
      }
      SweepReport report = sweeper.sweep().now().withEntries().run();
      assertThat(report.floor()).isGreaterThanOrEqualTo(COMMITS);
      if (isBusy) {
        assertThat(offers.get()).isGreaterThan(20);
      }
      busy.first = () -> {};
      sweeper.sweep().now().run();
      assertThat(sweeper.check().run().findings()).isEmpty();
      Table table = sweeper.table("t.x0");
      for (long version = 0; version < table.now().version(); version += 37) {
        assertThat(table.at(version).schema().find("k").comment()).isNotNull();
      }
      assertThat(table.history(10_000)).hasSize((int) table.now().version() + 1);
    }
    assertThat(StoreContents.names(store, "ledger")).hasSizeLessThan(200);
    return busy.pages.get();
  }

  @Test
  void whatIsWrittenBesideOthersIsWhatIsWrittenAlone() {
    long alone = copied(lakeWithManyVersions(), false);
    long beside = copied(lakeWithManyVersions(), true);
    assertThat(alone).isPositive();
    assertThat(beside).isLessThan(2 * alone);
  }

  @Test
  void aSweepThatIsKilledWhileItCopiesIsGoneOnWithByAnother() {
    for (int kill = 1; kill < 40; kill += 13) {
      MemoryStore store = lakeWithManyVersions();
      Busy dying = new Busy(store);
      AtomicInteger left = new AtomicInteger(kill);
      dying.first =
          () -> {
            if (left.decrementAndGet() == 0) {
              throw new IllegalStateException("killed");
            }
          };
      try (Lake sweeper = Lake.open(dying, LakeOptions.DEFAULTS.threads(0))) {
        sweeper.sweep().now().withEntries().run();
      } catch (IllegalStateException | UnknownOutcomeException e) {
        assertThat(left.get()).isNotPositive();
      }
      try (Lake sweeper = Lake.open(store, LakeOptions.DEFAULTS.threads(0))) {
        sweeper.sweep().now().withEntries().run();
        sweeper.sweep().now().run();
        assertThat(sweeper.check().run().findings()).as("killed at %d", kill).isEmpty();
        assertThat(sweeper.table("t.x0").at(1).version()).isEqualTo(1);
      }
      assertThat(StoreContents.names(store, "ledger")).hasSizeLessThan(50);
    }
  }
}
