package org.ysteron.internal.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.StoreException;

/** Which line of entries a process is on: floors, junk below them, and lakes that are not there. */
class LineTest {
  private static final Schema SCHEMA = Schema.of(Field.of("n", Types.INTEGER));
  private final MemoryStore store = new MemoryStore();
  @TempDir Path directory;

  private static void append(Table table, int value) {
    try (Append append = table.append()) {
      append.add(value);
      append.commit();
    }
  }

  private static String floor(long number) {
    return "floor/" + Numbering.flat(number);
  }

  /** Says that entries below a number may go, and takes them away. */
  private void raiseFloor(long number) {
    try (ObjectOutput out = store.put(floor(number))) {
      out.write("{}\n".getBytes(StandardCharsets.UTF_8));
      out.commit();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    for (long n = 0; n < number; n++) {
      store.delete(PageHome.entryName(n));
    }
  }

  /** Gives the lake's table other names, so that entries need few others. */
  private static void rename(Lake lake, int times) {
    for (int i = 0; i < times; i++) {
      String now = lake.tables().get(0).name();
      lake.renameTable(now, now.equals("t.n") ? "t.m" : "t.n");
    }
  }

  @Test
  void aProcessThatWakesUpBelowTheFloorGoesOnFromTheNewest() {
    Lake lake = Lake.create(store);
    lake.createTable("t.n", SCHEMA);
    rename(lake, 988);
    Lake idle = Lake.open(store);
    rename(lake, 21);
    raiseFloor(1005);
    assertThat(idle.tables()).hasSize(1);
    Lake asleep = Lake.open(store);
    idle.createTable("t.late", SCHEMA);
    assertThat(lake.tables()).hasSize(2);
    assertThat(asleep.commits(3)).hasSize(3);
  }

  @Test
  void junkThatASleeperLeftBelowTheFloorIsNeverBelieved() {
    Lake lake = Lake.create(store);
    lake.createTable("t.n", SCHEMA);
    rename(lake, 1003);
    byte[] old = store.read(PageHome.entryName(900));
    Lake idle = Lake.open(store);
    rename(lake, 3);
    raiseFloor(1004);
    store.createIfAbsent(PageHome.entryName(900), old);
    store.createIfAbsent(PageHome.entryName(1001), "junk".getBytes(StandardCharsets.UTF_8));
    assertThat(idle.commits(2)).hasSize(2);
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.now().commit().entry()).isEqualTo(1007);
      fresh.createTable("t.more", SCHEMA);
    }
  }

  @Test
  void aWinBelowTheFloorIsNotAcknowledged() {
    Lake lake = Lake.create(store);
    lake.createTable("t.n", SCHEMA);
    boolean[] asleep = {false};
    ForwardingStore drowsy =
        new ForwardingStore(store) {
          @Override
          public boolean createIfAbsent(String name, byte[] content) {
            if (asleep[0] && name.startsWith("ledger/")) {
              asleep[0] = false;
              rename(lake, 5);
              raiseFloor(4);
            }
            return super.createIfAbsent(name, content);
          }
        };
    Lake sleeper = Lake.open(drowsy);
    asleep[0] = true;
    // Entry 2 was somebody's and is trimmed: the sleeper creates it, sees the floor, and goes on.
    sleeper.createTable("t.late", SCHEMA);
    assertThat(sleeper.now().commit().entry()).isEqualTo(7);
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.tables()).hasSize(2);
      assertThat(fresh.commits(1).get(0).entry()).isEqualTo(7);
    }
  }

  @Test
  void aGapAboveTheFloorIsDamageAndOneBelowIsNot() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    for (int i = 0; i < 6; i++) {
      append(table, i);
    }
    store.delete(PageHome.entryName(5));
    assertThatThrownBy(() -> Lake.open(store)).isInstanceOf(DamagedException.class);
    store.createIfAbsent(floor(6), new byte[0]);
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.now().commit().entry()).isEqualTo(7);
      // What the lake still refers to in entries below the floor has expired, and is not damaged.
      assertThatThrownBy(() -> fresh.table("t.n").at(4).scan().count())
          .isInstanceOf(ExpiredException.class);
    }
  }

  @Test
  void numbersGoOnBehindNineDigits() {
    StoreLedger ledger = new StoreLedger(store);
    assertThat(ledger.nameOf(999_999_999)).isEqualTo("ledger/999/999/999");
    assertThat(ledger.nameOf(1_000_000_000)).isEqualTo("ledger/d/001/000/000/000");
    assertThat(Numbering.flat(1_000_000_000)).isEqualTo("d001000000000");
    assertThat(Numbering.leading("d001000000000-abc")).hasValue(1_000_000_000L);
    assertThat(Numbering.leading("000000042")).hasValue(42);
    assertThat(Numbering.leading("x")).isEmpty();
    List<Long> numbers = List.of(5L, 999_999_999L, 1_000_000_000L, 999_999_999_999L, 1L << 60);
    assertThat(numbers.stream().map(Numbering::flat)).isSorted();
    store.createIfAbsent(ledger.nameOf(999_999_999), new byte[0]);
    store.createIfAbsent(floor(999_999_999), new byte[0]);
    assertThat(ledger.newest(-1)).isEqualTo(999_999_999);
    store.createIfAbsent(ledger.nameOf(1_000_000_000), new byte[0]);
    assertThat(ledger.newest(-1)).isEqualTo(1_000_000_000);
    assertThat(ledger.newest(999_999_999)).isEqualTo(1_000_000_000);
    store.createIfAbsent(ledger.nameOf(1_000_000_001), new byte[0]);
    assertThat(ledger.newest(1_000_000_000)).isEqualTo(1_000_000_001);
    assertThat(ledger.floor()).isEqualTo(999_999_999);
  }

  private static void remove(Path path) throws IOException {
    try (Stream<Path> all = Files.walk(path)) {
      for (Path each : all.sorted(Comparator.reverseOrder()).toList()) {
        Files.delete(each);
      }
    }
  }

  @Test
  void aLakeThatWasMovedAwayTakesNothingAndIsNotMadeAgain() throws IOException {
    Path place = directory.resolve("lake");
    try (Lake lake = Lake.create(place)) {
      Table table = lake.createTable("t.n", SCHEMA);
      append(table, 1);
      Files.move(place, directory.resolve("moved"));
      assertThatThrownBy(() -> append(table, 2)).isInstanceOf(WrongLakeException.class);
      assertThatThrownBy(() -> lake.createTable("t.m", SCHEMA))
          .isInstanceOf(WrongLakeException.class)
          .hasMessageContaining("was moved");
      assertThatThrownBy(lake::tables).isInstanceOf(WrongLakeException.class);
      assertThat(place).doesNotExist();
      try (Lake other = Lake.create(place)) {
        other.createTable("t.other", SCHEMA);
        append(other.createTable("t.n", SCHEMA), 7);
        append(other.table("t.n"), 8);
        assertThatThrownBy(() -> append(table, 2)).isInstanceOf(WrongLakeException.class);
        assertThatThrownBy(lake::tables)
            .isInstanceOf(WrongLakeException.class)
            .hasMessageContaining("there is now lake " + other.id());
        assertThat(other.table("t.n").scan().count()).isEqualTo(2);
      }
      remove(place);
      Files.move(directory.resolve("moved"), place);
      append(table, 3);
      assertThat(table.scan().count()).isEqualTo(2);
    }
  }

  @Test
  void aLakeThatWasPutBackTakesNothingFromThoseWhoSawMore() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    for (int i = 0; i < 4; i++) {
      append(table, i);
    }
    store.delete(PageHome.entryName(5));
    assertThatThrownBy(() -> append(table, 9)).isInstanceOf(WrongLakeException.class);
    assertThatThrownBy(() -> lake.createTable("t.m", SCHEMA))
        .isInstanceOf(WrongLakeException.class)
        .hasMessageContaining("restored from an older copy");
    // Somebody goes on from the older copy: the same number is another entry now.
    try (Lake other = Lake.open(store)) {
      append(other.table("t.n"), 77);
      assertThatThrownBy(() -> lake.createTable("t.m", SCHEMA))
          .isInstanceOf(WrongLakeException.class);
      append(other.table("t.n"), 78);
      assertThatThrownBy(lake::tables).isInstanceOf(WrongLakeException.class);
      assertThat(other.table("t.n").scan().count()).isEqualTo(5);
    }
  }

  @Test
  void whatStartedElsewhereOrBeforeTheHorizonIsRefused() {
    LakeCore core =
        LakeCore.create(
            store, CommitNote.standard(), new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)));
    LakeState first = core.refresh();
    TableForm form = TableForm.of(SCHEMA, Layout.NONE);
    core.commit(
        TableEdits.create(UUID.randomUUID(), "t.a", form, TableSettings.DEFAULTS),
        CommitNote.standard());
    LakeState now = core.refresh();
    core.checkStart(now, first);
    LakeCore otherCore =
        LakeCore.create(
            new MemoryStore(),
            CommitNote.standard(),
            new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)));
    assertThatThrownBy(() -> core.checkStart(now, otherCore.refresh()))
        .isInstanceOf(WrongLakeException.class)
        .hasMessageContaining("which differs from entry 0");
    var page = now.page().with(now.page().upkeep().withHorizon(1));
    LakeState later =
        new LakeState(
            now.entry(), now.headLength(), now.mustRead(), now.mustWrite(), page, now.pageRef());
    core.checkStart(later, now);
    assertThatThrownBy(() -> core.checkStart(later, first))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("refuses work from before entry 1");
  }

  /** A store whose client sends each create again by itself, its first reply being lost. */
  private static final class Retrying extends ForwardingStore {
    Retrying() {
      super(new MemoryStore());
    }

    @Override
    public boolean createIfAbsent(String name, byte[] content) {
      super.createIfAbsent(name, content);
      return super.createIfAbsent(name, content);
    }
  }

  @Test
  void aClientsOwnRetryThatFindsItsOwnObjectHasSucceeded() {
    Retrying retrying = new Retrying();
    Lake lake = Lake.create(retrying);
    Table table = lake.createTable("t.n", SCHEMA);
    append(table, 1);
    lake.because("y".repeat(300_000)).table("t.n").delete().all().run(); // its pages are large
    assertThat(retrying.list("pages", "", 9)).hasSize(2);
    append(table, 2);
    assertThat(lake.commits(9)).hasSize(5);
    assertThat(table.scan().count()).isEqualTo(1);
  }

  @Test
  void aDirectoryThatCouldNotBeSyncedIsMadeGoodBeforeTheCommitIsAcknowledged() {
    boolean[] fails = {false};
    ForwardingStore unsynced =
        new ForwardingStore(store) {
          @Override
          public boolean createIfAbsent(String name, byte[] content) {
            boolean made = super.createIfAbsent(name, content);
            if (fails[0] && name.startsWith("ledger/")) {
              throw new StoreException("the directory could not be synced");
            }
            return made;
          }

          @Override
          public void settle(String name) {
            if (fails[0]) {
              throw new StoreException("the directory could not be synced, still");
            }
            super.settle(name);
          }
        };
    Lake lake = Lake.create(unsynced);
    Table table = lake.createTable("t.n", SCHEMA);
    fails[0] = true;
    try (Append append = table.append()) {
      append.add(1);
      assertThatThrownBy(append::commit)
          .isInstanceOf(UnknownOutcomeException.class)
          .satisfies(
              e -> {
                fails[0] = false;
                ((UnknownOutcomeException) e).attempt().run();
              });
    }
    assertThat(table.scan().count()).isEqualTo(1);
  }

  @Test
  void anEmptyPlaceIsNoLake() {
    assertThatThrownBy(() -> Lake.open(store)).isInstanceOf(NotFoundException.class);
  }
}
