package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.StoreLedger;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/** Processes that stop between two calls of theirs, while others do a good deal. */
class SleeperTest {
  @ParameterizedTest
  @ValueSource(longs = {0, 3})
  void aLakeThatGoesBetweenTheLookAndTheWinIsNotCommittedTo(long left) {
    MemoryStore store = new MemoryStore();
    AtomicBoolean goes = new AtomicBoolean();
    ObjectStore hooked =
        new ForwardingStore(store) {
          @Override
          public boolean createIfAbsent(String name, byte[] content) {
            if (name.startsWith("ledger/") && goes.getAndSet(false)) {
              StoreContents.names(store, "ledger").stream()
                  .filter(entry -> Long.parseLong(entry.substring(15)) >= left)
                  .forEach(store::delete);
            }
            return super.createIfAbsent(name, content);
          }
        };
    try (Lake lake = Lake.create(hooked, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("n", Types.BIGINT)));
      for (long n = 0; n < 5; n++) {
        try (Append append = table.append()) {
          append.add(n);
          append.commit();
        }
      }
      goes.set(true);
      Append append = table.append().add(99L);
      assertThatThrownBy(append::commit)
          .isInstanceOf(WrongLakeException.class)
          .hasMessageContaining("The entry was removed");
    }
    assertThat(StoreContents.names(store, "ledger")).hasSize((int) left);
  }

  private static final Schema SCHEMA = Schema.of(Field.of("k", Types.INTEGER));

  private final KeepingStore store = new KeepingStore();

  /**
   * A store of which one call, once it has begun with some name, first lets others do something.
   */
  private final class Drowsy extends ForwardingStore {
    private Runnable meanwhile;
    private String create = "";
    private String delete = "";
    private String list = "";
    private String beforeList = "";
    private String range = "";

    Drowsy() {
      super(store);
    }

    private void sleep() {
      Runnable others = meanwhile;
      meanwhile = null;
      if (others != null) {
        others.run();
      }
    }

    @Override
    public boolean createIfAbsent(String name, byte[] content) {
      if (!create.isEmpty() && name.startsWith(create)) {
        sleep();
      }
      return super.createIfAbsent(name, content);
    }

    @Override
    public byte[] readRange(String name, long offset, int length) {
      byte[] read = super.readRange(name, offset, length);
      if (name.equals(range)) {
        sleep();
      }
      return read;
    }

    @Override
    public void delete(String name) {
      if (!delete.isEmpty() && name.startsWith(delete)) {
        sleep();
      }
      super.delete(name);
    }

    @Override
    public List<Child> list(String directory, String after, int limit) {
      if (directory.equals(beforeList)) {
        sleep();
      }
      List<Child> found = super.list(directory, after, limit);
      if (directory.equals(list)) {
        sleep();
      }
      return found;
    }
  }

  private final Drowsy drowsy = new Drowsy();

  private static void append(Lake lake, int... keys) {
    for (int key : keys) {
      try (Append append = lake.table("t.x").append()) {
        append.add(key);
        append.commit();
      }
    }
  }

  private Lake made() {
    Lake lake = Lake.create(store);
    lake.createTable("t.x", SCHEMA);
    append(lake, 1, 2, 3);
    return lake;
  }

  /** Puts the lake back from a copy, and goes on with it. */
  private void putBack(KeepingStore.Copy copy, int... keys) {
    store.putBack(copy);
    try (Lake back = Lake.open(store)) {
      back.confirmRestore();
      append(back, keys);
    }
  }

  private long newest() {
    try (Lake fresh = Lake.open(store)) {
      return fresh.now().commit().entry();
    }
  }

  private long rows() {
    try (Lake fresh = Lake.open(store)) {
      return fresh.table("t.x").scan().count();
    }
  }

  private static void trim(Lake lake) {
    lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    lake.sweep().now().withEntries().run();
    lake.sweep().now().withEntries().run();
  }

  private static String entry(long number) {
    return "ledger/000/000/%03d".formatted(number);
  }

  /** List, read the entry, and only then the floor: else what is below it would be believed. */
  @Test
  void anEntryIsBelievedOnlyAfterTheFloorWasLookedAt() {
    try (Lake lake = Lake.create(store)) {
      lake.createTable("t.x", SCHEMA);
      append(lake, 1, 2);
      MemoryStore elsewhere = store.copy().now();
      append(lake, 3);
      byte[] junk;
      try (Lake loser = Lake.open(elsewhere)) {
        append(loser, 99);
        junk = elsewhere.read(entry(4));
      }
      UUID genuine = lake.now().commit().commitId();
      drowsy.list = "floor";
      drowsy.meanwhile =
          () -> {
            append(lake, 4);
            trim(lake);
            assertThat(store.createIfAbsent(entry(4), junk)).isTrue();
          };
      try (LakeCore opened = LakeCore.open(drowsy, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
        assertThat(opened.newestSeen().commit().commitId())
            .isIn(genuine, lake.now().commit().commitId());
        assertThat(opened.refresh().number()).isEqualTo(lake.now().commit().entry());
      }
    }
  }

  @Test
  void whatASleeperMadeBelowTheFloorSaysNothingOfTheEntryBehindIt() {
    try (Lake lake = made()) {
      Lake other = Lake.open(drowsy);
      MemoryStore elsewhere = store.copy().now();
      try (Lake loser = Lake.open(elsewhere)) {
        append(loser, 98);
      }
      append(lake, 4, 5);
      drowsy.list = "ledger/000/000";
      drowsy.meanwhile =
          () -> {
            lake.sweep().now().withEntries().run();
            assertThat(new StoreLedger(store).floor()).isEqualTo(6);
            store.createIfAbsent(entry(5), elsewhere.read(entry(5)));
          };
      assertThat(other.now().table("t.x").scan().count()).isEqualTo(5);
      assertThat(drowsy.meanwhile).isNull();
    }
  }

  @Test
  void theNewestOfAFreshLakeIsNotWhatASleeperMadeWhileItWasOpened() {
    try (Lake lake = made()) {
      byte[] junk = store.read(entry(4));
      drowsy.list = "ledger/000/000";
      drowsy.meanwhile =
          () -> {
            append(lake, 4);
            trim(lake);
            assertThat(store.createIfAbsent(entry(4), junk)).isTrue();
          };
      try (Lake fresh = Lake.open(drowsy)) {
        assertThat(fresh.now().commit().entry()).isEqualTo(lake.now().commit().entry());
      }
    }
  }

  @Test
  void whoseEntryLandsBehindTheEndOfALakeThatWasPutBackTakesItAway() {
    try (Lake lake = made()) {
      KeepingStore.Copy copy = store.copy();
      append(lake, 4, 5, 6);
      Lake late = Lake.open(drowsy);
      drowsy.create = "ledger";
      drowsy.meanwhile = () -> putBack(copy);
      assertThatThrownBy(() -> append(late, 7))
          .isInstanceOf(WrongLakeException.class)
          .hasMessageContaining("entry 8")
          .hasMessageContaining("open the lake again");
      assertThatThrownBy(() -> store.open(entry(8))).hasMessageContaining(entry(8));
      try (Lake back = Lake.open(store)) {
        append(back, 40);
      }
      assertThat(rows()).isEqualTo(4);
    }
  }

  @Test
  void anEntryThatWasReadBeforeTheCopyWasPutBackIsNotGoneOnFrom() {
    try (Lake lake = made()) {
      Lake late = Lake.open(drowsy);
      KeepingStore.Copy copy = store.copy();
      append(lake, 4); // so that there is something new to be read
      drowsy.beforeList = "floor";
      drowsy.meanwhile = () -> putBack(copy);
      assertThat(late.now().table("t.x").scan().count()).isEqualTo(3);
      assertThat(drowsy.meanwhile).isNull();
      append(late, 40);
      assertThat(rows()).isEqualTo(4);
    }
  }

  @Test
  void onlyHisOwnEntryIsTakenAway() {
    try (Lake lake = made()) {
      KeepingStore.Copy copy = store.copy();
      append(lake, 4, 5);
      Lake late = Lake.open(drowsy);
      drowsy.create = "ledger";
      drowsy.meanwhile =
          () -> {
            drowsy.create = "";
            drowsy.beforeList = "floor";
            // after his entry 7 was won, before he has looked
            drowsy.meanwhile = () -> putBack(copy, 40, 50, 60);
          };
      assertThatThrownBy(() -> append(late, 7)).isInstanceOf(WrongLakeException.class);
      assertThat(newest()).isEqualTo(8);
      assertThat(rows()).isEqualTo(6);
    }
  }

  @Test
  void whoIsAskedForTheNewestLooksAgainWhenThatWasLetGoWhileHeRead() {
    try (Lake lake = made()) {
      try (Lake slow = Lake.open(drowsy)) {
        Table table = slow.table("t.x");
        append(lake, 4);
        drowsy.list = "floor";
        drowsy.meanwhile =
            () -> {
              append(lake, 5);
              trim(lake);
            };
        assertThat(table.now().scan().count()).isIn(4L, 5L);
      }
    }
  }

  @Test
  void nobodyGoesOnFromAnEntryThatIsTakenAwayAgain() {
    try (Lake lake = made()) {
      KeepingStore.Copy copy = store.copy();
      append(lake, 4, 5, 6);
      Lake late = Lake.open(drowsy);
      Lake later = Lake.open(store);
      drowsy.create = "ledger";
      drowsy.meanwhile =
          () -> {
            putBack(copy, 40, 50);
            drowsy.delete = "ledger";
            drowsy.meanwhile =
                () ->
                    assertThatThrownBy(() -> append(later, 8))
                        .isInstanceOf(WrongLakeException.class);
          };
      assertThatThrownBy(() -> append(late, 7)).isInstanceOf(WrongLakeException.class);
      assertThat(drowsy.meanwhile).isNull();
      assertThat(newest()).isEqualTo(7);
      assertThat(rows()).isEqualTo(5);
    }
  }

  @Test
  void whatHeBuiltOnMayBeAnothersAndBeTakenAwayWhileHeLooks() {
    try (Lake lake = made()) {
      KeepingStore.Copy copy = store.copy();
      byte[] astray = store.read(entry(4));
      append(lake, 4, 5);
      Lake late = Lake.open(drowsy);
      drowsy.create = "ledger";
      drowsy.meanwhile =
          () -> {
            putBack(copy);
            store.createIfAbsent(entry(6), astray);
            drowsy.range = entry(6);
            drowsy.meanwhile = () -> store.delete(entry(6));
          };
      assertThatThrownBy(() -> append(late, 7)).isInstanceOf(WrongLakeException.class);
      assertThat(drowsy.meanwhile).isNull();
      assertThat(newest()).isEqualTo(5);
      assertThat(rows()).isEqualTo(3);
    }
  }

  @Test
  void whoReadsALakeThatWasPutBackIsToldSoAlsoWhenItHasAsManyEntries() {
    try (Lake lake = made()) {
      KeepingStore.Copy copy = store.copy();
      append(lake, 4, 5);
      LakeView seen = lake.now();
      LakeView unread = Lake.open(store).now();
      putBack(copy, 40);
      assertThat(newest()).isEqualTo(seen.commit().entry());
      assertThatThrownBy(lake::now).isInstanceOf(WrongLakeException.class);
      assertThatThrownBy(() -> append(lake, 9)).isInstanceOf(WrongLakeException.class);
      // What it has not read yet is not there, which is no damage.
      assertThatThrownBy(() -> unread.table("t.x").files()).isInstanceOf(WrongLakeException.class);
      assertThatThrownBy(() -> seen.table("t.x").scan().rows().forEach(row -> {}))
          .isInstanceOf(WrongLakeException.class);
    }
  }

  @Test
  void anEntryThatIsDamagedIsNotTakenForAnotherLakes() {
    try (Lake lake = made()) {
      byte[] newest = store.read(entry(4));
      newest[40] ^= 1;
      store.delete(entry(4));
      store.createIfAbsent(entry(4), newest);
      assertThatThrownBy(() -> append(lake, 9)).isInstanceOf(DamagedException.class);
    }
  }

  @Test
  void aLakePutBackTwiceIsNoticedEachTime() {
    try (Lake first = made()) {
      KeepingStore.Copy copy = store.copy();
      KeepingStore.Copy again = store.copy();
      append(first, 4, 5);
      store.putBack(copy);
      Lake second = Lake.open(store);
      second.confirmRestore();
      append(second, 6);
      store.putBack(again);
      try (Lake third = Lake.open(store)) {
        third.confirmRestore();
        third.confirmRestore(); // once more does no harm
        assertThat(
                store.list("floor", "", 9).stream()
                    .filter(child -> child.segment().startsWith("restored-")))
            .hasSize(1);
        for (Lake old : List.of(first, second)) {
          assertThatThrownBy(() -> append(old, 9)).isInstanceOf(WrongLakeException.class);
        }
        append(third, 7);
        assertThat(third.table("t.x").scan().count()).isEqualTo(4);
      }
    }
  }

  @Test
  void aBookmarkOfTheLakeLooksAgainWhetherAllItNamesIsKept() {
    try (Lake lake = made()) {
      Instant then = lake.table("t.x").history(9).get(2).commit().time();
      Lake other = Lake.open(drowsy);
      drowsy.create = "ledger";
      drowsy.meanwhile = () -> lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      assertThatThrownBy(() -> other.bookmark("then", then)).isInstanceOf(ExpiredException.class);
      assertThat(lake.bookmarks()).isEmpty();
      assertThat(new String(store.read(entry(5)), StandardCharsets.UTF_8)).contains("\"expire");
    }
  }
}
