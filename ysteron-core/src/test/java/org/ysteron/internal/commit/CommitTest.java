package org.ysteron.internal.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.Test;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Committed;
import org.ysteron.report.TableVersion;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.NotAppliedException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

class CommitTest {
  private static final Schema SCHEMA = Schema.of(Field.of("n", Types.INTEGER));
  private final UnclearStore store = new UnclearStore();

  /** Fails creates of ledger entries in the ways that stores do. */
  private static final class UnclearStore extends ForwardingStore {
    private enum Fault {
      NONE,
      FAIL,
      FAIL_FOR_CERTAIN,
      APPLY_AND_LOSE_REPLY,
      FAIL_AND_APPLY_LATE
    }

    private Fault fault = Fault.NONE;
    private Runnable late = () -> {};

    UnclearStore() {
      super(new MemoryStore());
    }

    @Override
    public synchronized boolean createIfAbsent(String name, byte[] content) {
      if (!name.startsWith("ledger/") || fault == Fault.NONE) {
        return super.createIfAbsent(name, content);
      }
      if (fault == Fault.APPLY_AND_LOSE_REPLY) {
        super.createIfAbsent(name, content);
      } else if (fault == Fault.FAIL_AND_APPLY_LATE) {
        late = () -> super.createIfAbsent(name, content);
      }
      if (fault == Fault.FAIL_FOR_CERTAIN) {
        throw new NotAppliedException("no space is left on the device", null);
      }
      throw new StoreException("no reply");
    }
  }

  private static void append(Table table, int value) {
    try (Append append = table.append()) {
      append.add(value);
      append.commit();
    }
  }

  /** Appends 1 while the ledger gives no clear reply; afterwards it does again. */
  private UnknownOutcomeException appendUnclearly(Table table, UnclearStore.Fault fault) {
    store.fault = fault;
    UnknownOutcomeException unknown =
        catchThrowableOfType(UnknownOutcomeException.class, () -> append(table, 1));
    store.fault = UnclearStore.Fault.NONE;
    return unknown;
  }

  private static List<Object> values(Table table) {
    return table.scan().rows().stream().map(row -> row.get("n")).toList();
  }

  @Test
  void aLostReplyOfACommitThatHappenedIsNoFailure() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    store.fault = UnclearStore.Fault.APPLY_AND_LOSE_REPLY;
    append(table, 1);
    store.fault = UnclearStore.Fault.NONE;
    append(table, 2);
    assertThat(values(table)).containsExactly(1, 2);
    assertThat(table.now().version()).isEqualTo(2);
  }

  @Test
  void anOutcomeThatStaysUnclearIsUnknownUntilItIsAskedAgain() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    UnknownOutcomeException unknown = appendUnclearly(table, UnclearStore.Fault.FAIL);
    store.fault = UnclearStore.Fault.FAIL;
    assertThat(unknown).hasMessageContaining("unknown whether the commit happened");
    assertThat(values(table)).isEmpty();
    assertThatThrownBy(unknown.attempt()::run).isInstanceOf(UnknownOutcomeException.class);
    store.fault = UnclearStore.Fault.NONE;
    Committed committed = unknown.attempt().run();
    assertThat(committed.versions()).containsEntry(table.id(), 1L);
    assertThat(values(table)).containsExactly(1);
    assertThat(lake.findCommit(committed.commit().commitId(), 10)).isPresent();
  }

  @Test
  void aFailureBeforeAnythingWasWrittenIsNoUnknownOutcome() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    store.fault = UnclearStore.Fault.FAIL_FOR_CERTAIN;
    assertThatThrownBy(() -> append(table, 1))
        .isInstanceOf(NotAppliedException.class)
        .hasMessageContaining("no space is left");
    store.fault = UnclearStore.Fault.NONE;
    assertThat(store.list("data/" + table.id(), "", 10)).isEmpty();
    append(table, 2);
    assertThat(values(table)).containsExactly(2);
  }

  @Test
  void aCreateThatIsAppliedLateCountsOnce() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    UnknownOutcomeException unknown =
        appendUnclearly(table, UnclearStore.Fault.FAIL_AND_APPLY_LATE);
    store.late.run();
    append(table, 2);
    assertThat(unknown.attempt().run().versions()).containsEntry(table.id(), 1L);
    assertThat(values(table)).containsExactly(1, 2);
    assertThat(table.now().version()).isEqualTo(2);
  }

  @Test
  void anotherCommitInTheSlotOfAnUnknownOneSendsItOn() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    UnknownOutcomeException unknown = appendUnclearly(table, UnclearStore.Fault.FAIL);
    append(lake.table("t.n"), 2);
    assertThat(unknown.attempt().run().versions()).containsEntry(table.id(), 2L);
    assertThat(values(table)).containsExactly(2, 1);
  }

  @Test
  void aWinBelowTheFloorIsNone() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    UnknownOutcomeException unknown = appendUnclearly(table, UnclearStore.Fault.FAIL);
    append(lake.table("t.n"), 2);
    append(lake.table("t.n"), 3);
    store.createIfAbsent("floor/000000003", new byte[0]);
    store.delete("ledger/000/000/002"); // the slot of the unknown commit, filled by another's
    assertThat(unknown.attempt().run().versions()).containsEntry(table.id(), 3L);
    assertThat(values(table)).containsExactly(2, 3, 1);
  }

  @Test
  void manyWritersLoseNothing() throws Exception {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    ExecutorService threads = Executors.newFixedThreadPool(6);
    List<Callable<Void>> writers = new ArrayList<>();
    for (int w = 0; w < 6; w++) {
      int writer = w;
      writers.add(
          () -> {
            try (Lake own = Lake.open(store)) {
              for (int i = 0; i < 25; i++) {
                append(own.table("t.n"), writer * 1000 + i);
              }
            }
            return null;
          });
    }
    for (Future<Void> done : threads.invokeAll(writers)) {
      done.get();
    }
    threads.shutdownNow();
    assertThat(values(table)).doesNotHaveDuplicates().hasSize(150);
    assertThat(table.now().version()).isEqualTo(150);
    List<TableVersion> history = table.history(1000);
    for (int i = 0; i < history.size(); i++) {
      assertThat(history.get(i).version()).isEqualTo(150 - i);
      assertThat(history.get(i).totals().rows()).isEqualTo(150 - i);
    }
    assertThat(lake.commits(1000)).hasSize(152);
  }

  @Test
  void everyVersionStaysAsItWas() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    for (int i = 0; i < 60; i++) {
      append(table, i);
    }
    for (int v = 0; v <= 60; v++) {
      assertThat(table.at(v).scan().count()).isEqualTo(v);
    }
    assertThatThrownBy(() -> table.at(61))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("has no version 61: its versions are 0 to 60");
  }

  @Test
  void anAppendToATableThatWasDroppedMeanwhileIsAConflict() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    try (Append append = table.append()) {
      append.add(1);
      lake.by("ada", "test").noting("not needed").dropTable("t.n");
      assertThatThrownBy(append::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("t.n was dropped at version 1 by ada")
          .hasMessageContaining("not needed");
    }
    assertThat(store.list("data/" + table.id(), "", 10)).isEmpty();
  }

  @Test
  void aRenameMeanwhileDoesNotDisturbAnAppend() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    try (Append append = table.append()) {
      append.add(1);
      lake.renameTable("t.n", "t.m");
      append.commit();
    }
    assertThat(values(lake.table("t.m"))).containsExactly(1);
  }

  @Test
  void twoTablesOfOneNameAreRefused() {
    Lake lake = Lake.create(store);
    lake.createTable("t.n", SCHEMA);
    assertThatThrownBy(() -> lake.createTable("t.n", SCHEMA))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Table t.n already exists");
    lake.createTable("t.m", SCHEMA);
    assertThatThrownBy(() -> lake.renameTable("t.m", "t.n"))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> Lake.create(store))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("A lake already exists in memory");
  }

  @Test
  void aHoleInTheLedgerIsDamage() {
    Lake lake = Lake.create(store);
    Table table = lake.createTable("t.n", SCHEMA);
    append(table, 1);
    append(table, 2);
    store.delete("ledger/000/000/001");
    assertThatThrownBy(() -> Lake.open(store))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("has a hole: entry ledger/000/000/001 is missing");
  }

  @Test
  void anEntryMadeOnAnotherParentIsDamage() {
    Lake lake = Lake.create(store);
    lake.createTable("t.n", SCHEMA);
    MemoryStore other = new MemoryStore();
    Lake second = Lake.create(other);
    append(second.createTable("t.n", SCHEMA), 1);
    store.createIfAbsent("ledger/000/000/002", other.read("ledger/000/000/002"));
    assertThatThrownBy(() -> Lake.open(store))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("does not match entry 1");
  }

  @Test
  void theLedgerGoesOnOverItsDirectories() {
    MemoryStore small = new MemoryStore();
    StoreLedger ledger = new StoreLedger(small);
    for (int i = 0; i <= 2001; i++) {
      assertThat(ledger.create(i, new byte[] {1})).isTrue();
    }
    assertThat(ledger.newest(-1)).isEqualTo(2001);
    assertThat(ledger.newest(998)).isEqualTo(2001);
    assertThat(ledger.newest(999)).isEqualTo(2001);
    assertThat(ledger.newest(2000)).isEqualTo(2001);
    assertThat(ledger.newest(2001)).isEqualTo(2001);
    assertThat(ledger.nameOf(1_234_567)).isEqualTo("ledger/001/234/567");
  }

  @Test
  void timesNeverGoBackAlsoWithAClockFarBehind() {
    Instant noon = Instant.parse("2026-03-01T12:00:00Z");
    Lake lake =
        Lake.create(
            store, LakeOptions.DEFAULTS.clock(Clock.fixed(noon, ZoneOffset.UTC)).threads(1));
    lake.createTable("t.n", SCHEMA);
    lake.createTable("t.m", SCHEMA);
    assertThat(lake.commits(3))
        .extracting(c -> c.time().toString())
        .containsExactly(
            "2026-03-01T12:00:00.000002Z", "2026-03-01T12:00:00.000001Z", "2026-03-01T12:00:00Z");
    Lake late =
        Lake.open(
            store,
            LakeOptions.DEFAULTS
                .clock(Clock.fixed(noon.minus(Duration.ofDays(1)), ZoneOffset.UTC))
                .threads(1));
    late.createTable("t.k", SCHEMA);
    assertThat(lake.commits(1).get(0).time()).hasToString("2026-03-01T12:00:00.000005Z");
  }

  @Test
  void aClockFarAheadOfTheStoresIsRefusedBeforeItStopsEverybody() {
    Lake lake = Lake.create(store);
    Lake fast =
        Lake.open(
            store,
            LakeOptions.DEFAULTS
                .clock(Clock.offset(Clock.systemUTC(), Duration.ofDays(400)))
                .threads(1));
    assertThatThrownBy(() -> fast.createTable("t.k", SCHEMA))
        .isInstanceOf(YsteronException.class)
        .hasMessageMatching("The clock of this machine says \\S+, but the store says \\S+.*");
    Lake nearly =
        Lake.open(
            store,
            LakeOptions.DEFAULTS
                .clock(Clock.offset(Clock.systemUTC(), Duration.ofSeconds(50)))
                .threads(1));
    nearly.createTable("t.n", SCHEMA);
    Instant ahead = lake.commits(1).get(0).time();
    lake.createTable("t.m", SCHEMA);
    assertThat(lake.commits(1).get(0).time()).isEqualTo(ahead.plusNanos(3000));
    assertThat(lake.tables()).hasSize(2);
  }

  @Test
  void aNewerFormatAndUnknownFeaturesAreRefusedByName() {
    Lake lake = Lake.create(store);
    LakeState state = LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS)).refresh();
    store.createIfAbsent("ledger/000/000/001", entry(state, List.of("masks"), List.of()));
    assertThatThrownBy(() -> Lake.open(store))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessageContaining("Reading this lake needs the feature \"masks\"");
    // To one who is at it, the slot is taken by somebody else, whose lake is newer.
    assertThatThrownBy(() -> lake.createTable("t.n", SCHEMA))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessageContaining("needs the feature \"masks\"");
    store.delete("ledger/000/000/001");
    store.createIfAbsent("ledger/000/000/001", entry(state, List.of(), List.of("group commit")));
    Lake readable = Lake.open(store);
    assertThat(readable.tables()).isEmpty();
    assertThatThrownBy(() -> readable.createTable("t.n", SCHEMA))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessageContaining("Writing to this lake needs the feature \"group commit\"");
    lake.close();
  }

  private static byte[] entry(LakeState state, List<String> read, List<String> write) {
    Instant time = state.commit().time().plusSeconds(1);
    org.ysteron.report.CommitStamp stamp =
        new org.ysteron.report.CommitStamp(1, 1, UUID.randomUUID(), time, "a", "p", "", "");
    return new EntryHead(
            state.lakeId(),
            1,
            time,
            0,
            state.hash(),
            read,
            write,
            List.of(new EntryHead.CommitLines(stamp, java.util.Map.of(), List.of())),
            state.pageRef(),
            EntryHead.Sum.NONE)
        .encode(0, new org.ysteron.internal.tree.PageBatch().next());
  }

  @Test
  void aLargeCommitPutsItsPagesIntoAnObjectOfTheirOwn() {
    LakeCore core =
        LakeCore.create(store, CommitNote.standard(), new LakeCore.Settings(LakeOptions.DEFAULTS));
    UUID id = UUID.randomUUID();
    core.commit(
        TableEdits.create(id, "t.n", TableForm.of(SCHEMA, Layout.NONE), TableSettings.DEFAULTS),
        CommitNote.standard());
    List<StagedFile> files = new ArrayList<>();
    java.util.Random random = new java.util.Random(5);
    for (int i = 0; i < 5000; i++) {
      byte[] hash = new byte[32];
      random.nextBytes(hash);
      files.add(
          new StagedFile(
              UUID.randomUUID(),
              1,
              100,
              10,
              StagedFile.Form.of(0, 0, 1),
              50,
              hash,
              hash.clone(),
              java.util.Map.of(),
              0,
              java.util.Optional.empty()));
    }
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
    set.table(id, "t.n").append(files);
    set.commit(CommitNote.standard());
    assertThat(store.list("pages", "", 10))
        .extracting(ObjectStore.Child::segment)
        .containsExactlyInAnyOrder(id.toString(), "lake");
    assertThat(store.read("ledger/000/000/002").length).isLessThan(2000);
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.table("t.n").now().files()).hasSize(5000);
      assertThat(lake.table("t.n").scan().count()).isEqualTo(50_000);
    }
    for (String directory : List.of("pages/lake", "pages/" + id)) {
      String name = directory + "/" + store.list(directory, "", 1).get(0).segment();
      assertDamageIsFound(name, store.read(name));
    }
  }

  private void assertDamageIsFound(String name, byte[] pages) {
    for (int at = 0; at < pages.length; at += Math.max(101, pages.length / 300)) {
      byte[] flipped = pages.clone();
      flipped[at] ^= 16;
      store.delete(name);
      store.createIfAbsent(name, flipped);
      assertThatThrownBy(
              () -> {
                try (Lake lake = Lake.open(store)) {
                  lake.commits(10);
                  lake.table("t.n").now().files();
                  lake.table("t.n").history(10);
                  lake.now().tables();
                  lake.at(lake.commits(10).get(1).time()).tables();
                }
              })
          .isInstanceOf(DamagedException.class)
          .hasMessageContaining(name);
    }
    store.delete(name);
    store.createIfAbsent(name, pages);
  }
}
