package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.ErasureReport;
import org.ysteron.proof.TableErase;
import org.ysteron.report.TableVersion;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/** Rows that are erased from all versions, and what is left of them. */
class ErasureTest {
  private static final String WHO = "Quillivane Marr";
  private static final long CALL = 0x5ca1ab1e0ddba11L;
  private static final Condition HER = Condition.column("observer").equalTo(WHO);

  private final MemoryStore store = new MemoryStore();

  private static byte[] call() {
    return ByteBuffer.allocate(8).order(ByteOrder.LITTLE_ENDIAN).putLong(CALL).array();
  }

  /** Sightings of several observers, in versions by all kinds of changes. */
  static void make(ObjectStore store) {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table other = lake.createTable("bird.ringed", Schema.of(Field.of("ring", Types.text())));
      Schema schema =
          Schema.of(
              Field.of("id", Types.INTEGER).notNull(),
              Field.of("observer", Types.text()).notNull(),
              Field.of("call", Types.BIGINT),
              Field.of("notes", Types.listOf(Types.text())));
      Table table = lake.createTable("bird.sightings", schema);
      for (int commit = 0; commit < 3; commit++) {
        try (Append append = table.append()) {
          for (int i = 0; i < 20; i++) {
            boolean her = i % 7 == 3;
            append.add(
                commit * 100 + i,
                her ? WHO : "Observer " + i % 5,
                her ? CALL + i : Long.valueOf(i),
                her ? List.of("seen by " + WHO, "at dusk") : List.of("n" + i));
          }
          append.commit("with " + WHO);
        }
      }
      try (Append append = table.append()) { // a file of hers alone
        append.add(900, WHO, CALL, null);
        append.add(901, WHO, CALL + 1, null);
        append.commit();
      }
      table.measure();
      table.delete().where(Condition.column("id").equalTo(3)).style(ChangeStyle.MASK).run();
      table
          .update()
          .where(Condition.column("id").in(List.of(10, 11)))
          .set("call", 4711L)
          .style(ChangeStyle.MASK)
          .run();
      table.bookmark("spring");
      try (Transaction work = lake.begin()) {
        work.table("bird.sightings")
            .update()
            .where(Condition.column("id").equalTo(103))
            .set("observer", "(withdrawn)")
            .set("call", 0L)
            .set("notes", List.of())
            .run();
        work.table("bird.ringed").add("R-1");
        work.commit("both, for " + WHO);
      }
      lake.because("DELETE WHERE observer = '" + WHO + "'")
          .table("bird.sightings")
          .delete()
          .where(Condition.column("id").equalTo(203))
          .run();
      table.compact().full().run();
      other.measure();
    }
  }

  @BeforeEach
  void makeALake() {
    make(store);
  }

  private static ErasureReport eraseHer(Lake lake) {
    return lake.table("bird.sightings").erase(HER).includingBookmarks().run();
  }

  private Lake open() {
    return Lake.open(store, LakeOptions.DEFAULTS.threads(1));
  }

  /** All versions of a table, without what is erased. */
  private static Map<Long, List<Row>> versions(ObjectStore store, String name) {
    Map<Long, List<Row>> versions = new TreeMap<>();
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      for (TableVersion version : lake.table(name).history(1000)) {
        List<Row> rows = new ArrayList<>();
        for (Row row : lake.table(name).at(version.version()).scan().rows()) {
          if (row.fields().size() < 2 || !WHO.equals(row.get(1))) {
            rows.add(row);
          }
        }
        versions.put(version.version(), rows);
      }
    }
    return versions;
  }

  private static void isGone(ObjectStore store) {
    assertThat(Traces.of(store, WHO)).isEmpty();
    for (int i = 0; i < 20; i++) {
      byte[] call = ByteBuffer.allocate(8).order(ByteOrder.LITTLE_ENDIAN).putLong(CALL + i).array();
      assertThat(Traces.of(store, call)).isEmpty();
    }
  }

  @Test
  void whatIsErasedIsNowhereAnyMore() {
    assertThat(Traces.of(store, WHO)).anyMatch(name -> name.startsWith("data/"));
    assertThat(Traces.of(store, WHO)).anyMatch(name -> name.startsWith("ledger/"));
    assertThat(Traces.of(store, call())).anyMatch(name -> name.startsWith("data/"));
    Map<Long, List<Row>> before = versions(store, "bird.sightings");
    try (Lake lake = open()) {
      Table table = lake.table("bird.sightings");
      List<TableVersion> history = table.history(1000);
      ErasureReport would = table.erase(HER).includingBookmarks().dryRun();
      assertThat(would.done()).isEmpty();
      ErasureReport report = table.erase(HER).includingBookmarks().run();
      assertThat(report.rows()).isEqualTo(would.rows()).isPositive();
      assertThat(report.files()).isEqualTo(would.files());
      assertThat(report.bookmarks()).containsExactly("spring");
      assertThat(report.done().orElseThrow().proof().rows()).isPositive();
      assertThat(report.done().orElseThrow().after().entry())
          .isEqualTo(lake.now().commit().entry() - 1);
      List<TableVersion> now = table.history(1000);
      for (int i = 0; i < history.size(); i++) {
        assertThat(now.get(i).version()).isEqualTo(history.get(i).version());
        assertThat(now.get(i).commit().time()).isEqualTo(history.get(i).commit().time());
        assertThat(now.get(i).commit().commitId()).isEqualTo(history.get(i).commit().commitId());
        assertThat(now.get(i).commit().note()).isEmpty();
      }
      assertThat(now).filteredOn(TableVersion::isRedacted).hasSize((int) report.versions());
      assertThat(lake.table("bird.ringed").history(9).get(0).commit().note()).isEmpty();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      assertThat(lake.check().run().erasures()).isEmpty();
      assertThat(lake.health().erasures()).isEmpty();
      assertThat(table.atBookmark("spring").scan().count()).isPositive();
    }
    isGone(store);
    assertThat(versions(store, "bird.sightings")).isEqualTo(before);
  }

  private static int killedAfter(ObjectStore store, int calls, boolean isAfter) {
    KilledStore dying = new KilledStore(store, calls, isAfter);
    try (Lake lake = Lake.open(dying, LakeOptions.DEFAULTS.threads(0))) {
      eraseHer(lake);
      return dying.calls();
    } catch (KilledStore.Killed e) {
      return -1;
    }
  }

  @Test
  void whereverItIsKilledItGoesOn() {
    Map<Long, List<Row>> before = versions(store, "bird.sightings");
    int step = Integer.getInteger("ysteron.erase.step", 23);
    long newest;
    try (Lake lake = open()) {
      newest = lake.now().commit().entry();
    }
    int done = -1;
    for (int calls = step % 7; done < 0; calls += step) {
      MemoryStore copy = new MemoryStore();
      StoreContents.copy(store, copy);
      done = killedAfter(copy, calls, calls % 2 == 0);
      try (Lake lake = Lake.open(copy, LakeOptions.DEFAULTS.threads(0))) {
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
        boolean isOpen = !lake.health().erasures().isEmpty();
        assertThat(lake.check().run().erasures()).isEqualTo(lake.health().erasures());
        try {
          ErasureReport report = eraseHer(lake);
          assertThat(report.bookmarks()).containsExactly("spring");
          assertThat(report.done().orElseThrow().before().entry()).isEqualTo(newest);
        } catch (NotFoundException e) {
          assertThat(isOpen).isFalse();
        }
        assertThat(lake.health().erasures()).isEmpty();
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      }
      isGone(copy);
      assertThat(versions(copy, "bird.sightings")).isEqualTo(before);
    }
    assertThat(done).isGreaterThan(200);
  }

  @Test
  void whatMatchesNothingOrIsHeldOrCannotBeToldIsRefusedByName() {
    try (Lake lake = open()) {
      Table table = lake.table("bird.sightings");
      long entry = lake.now().commit().entry();
      assertThatThrownBy(() -> table.erase(Condition.column("observer").equalTo("Nobody")).run())
          .isInstanceOf(NotFoundException.class)
          .hasMessageContaining("No row in any kept version of table bird.sightings");
      assertThatThrownBy(() -> table.erase(Condition.column("watcher").equalTo(WHO)).run())
          .isInstanceOf(NotFoundException.class)
          .hasMessageContaining("watcher");
      assertThatThrownBy(() -> table.erase(HER).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("spring");
      assertThatThrownBy(() -> table.erase(HER).dryRun()).hasMessageContaining("spring");
      assertThatThrownBy(() -> table.erase(HER).giveUp()).isInstanceOf(NotFoundException.class);
      assertThat(lake.now().commit().entry()).isEqualTo(entry);
      table.alter().add(Field.of("site", Types.text())).run();
      table.update().where(HER).set("site", "Orrin Head").run();
      Condition there = Condition.column("site").equalTo("Orrin Head");
      assertThatThrownBy(() -> table.erase(there).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("without column site")
          .hasMessageContaining("1, 2, 3");
      assertThat(table.erase(there).takingMissingAsNull().run().rows()).isPositive();
      assertThat(table.scan().where(HER).count()).isZero();
      assertThat(table.atBookmark("spring").scan().where(HER).count()).isPositive();
    }
  }

  @Test
  void aValueInACheckADefaultOrALayoutIsRefusedWhileItIsNeeded() {
    try (Lake lake = open()) {
      Schema schema =
          Schema.of(
              Field.of("id", Types.INTEGER), Field.of("observer", Types.text()).withDefault(WHO));
      Table table = lake.createTable("bird.listed", schema);
      table.alter().check("known", Condition.column("observer").notEqualTo("Anybody")).run();
      table.alter().layout(LayoutPlan.none().rule("list observer of ('" + WHO + "')")).run();
      try (Append append = table.append()) {
        append.add(1, WHO);
        append.add(2, "Observer 2");
        append.commit();
      }
      assertThatThrownBy(() -> table.erase(HER).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("a list of layout 1")
          .hasMessageContaining("the default of column observer")
          .hasMessageNotContaining("known")
          .hasMessageNotContaining(WHO);
      table.alter().layout(LayoutPlan.none()).dropDefault("observer").run();
      assertThatThrownBy(() -> table.erase(HER).run()).hasMessageContaining("a list of layout 1");
      table.rewrite().ofOlderLayouts().run();
      table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      assertThat(table.erase(HER).run().rows()).isEqualTo(1);
      assertThat(table.scan().count()).isEqualTo(1);
      lake.table("bird.sightings").erase(HER).includingBookmarks().run();
    }
    isGone(store);
  }

  @Test
  void asLongAsOneIsNotFinishedThereIsNoOther() {
    MemoryStore copy = new MemoryStore();
    StoreContents.copy(store, copy);
    Condition other = Condition.column("observer").equalTo("Observer 1");
    KilledStore.workUntil(copy, ErasureTest::eraseHer, lake -> !lake.health().erasures().isEmpty());
    try (Lake lake = Lake.open(copy, LakeOptions.DEFAULTS.threads(0))) {
      Table table = lake.table("bird.sightings");
      assertThat(lake.health().erasures())
          .allMatch(open -> open.table().equals("bird.sightings") && !open.isCleared());
      assertThatThrownBy(() -> table.erase(other).includingBookmarks().run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("An erasure of other rows of table bird.sightings");
      Condition ring = Condition.column("ring").equalTo("R-1");
      assertThatThrownBy(() -> lake.table("bird.ringed").erase(ring).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("The erasure of rows of table bird.sightings");
      table.erase(other).giveUp();
      assertThat(lake.health().erasures()).isEmpty();
      assertThat(table.scan().where(HER).count()).isPositive();
      assertThat(table.erase(other).includingBookmarks().run().rows()).isPositive();
      assertThat(table.erase(HER).includingBookmarks().run().rows()).isPositive();
    }
    isGone(copy);
  }

  @Test
  void whoStartedBeforeCannotBringRowsBack() {
    try (Lake lake = open();
        Lake another = open()) {
      Table table = lake.table("bird.sightings");
      Transaction copying = another.begin();
      copying.table("bird.sightings").update().where(HER).set("call", 1L).run();
      Append moving = another.table("bird.ringed").append();
      moving.add(WHO);
      Transaction packing = another.begin();
      packing.table("bird.sightings").rewrite().run();
      table.erase(HER).includingBookmarks().run();
      assertThatThrownBy(copying::commit).isInstanceOf(ConflictException.class);
      assertThatThrownBy(moving::commit).isInstanceOf(ConflictException.class);
      assertThatThrownBy(packing::commit).isInstanceOf(ConflictException.class);
      copying.close();
      moving.close();
      packing.close();
      lake.sweep().now().full().run();
      assertThat(table.scan().where(HER).count()).isZero();
    }
    isGone(store);
  }

  /** Interrupts an erasure once no version has the rows any more. */
  private static void interruptOnceCleared(ObjectStore of) {
    KilledStore.workUntil(
        of,
        ErasureTest::eraseHer,
        lake -> lake.health().erasures().stream().anyMatch(open -> open.isCleared()));
  }

  @Test
  void fromTheCommitThatTakesRowsOutOnNobodyWhoStartedBeforeCommits() {
    try (Lake another = open()) {
      Transaction copying = another.begin();
      copying.table("bird.sightings").update().where(HER).set("call", 1L).run();
      Transaction masking = another.begin();
      masking
          .table("bird.sightings")
          .delete()
          .where(Condition.column("id").equalTo(9))
          .style(ChangeStyle.MASK)
          .run();
      interruptOnceCleared(store);
      assertThatThrownBy(copying::commit).isInstanceOf(ConflictException.class);
      assertThatThrownBy(masking::commit).isInstanceOf(ConflictException.class);
      copying.close();
      masking.close();
      assertThat(another.health().erasures()).allMatch(open -> open.isCleared()).hasSize(1);
      assertThat(another.table("bird.sightings").scan().where(HER).count()).isZero();
      assertThat(another.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      another.table("bird.sightings").erase(HER).includingBookmarks().run();
    }
    isGone(store);
  }

  @Test
  void anErasureWhoseTableHasExpiredAsAWholeKeepsNobodyFromAnother() {
    interruptOnceCleared(store);
    try (Lake lake = open()) {
      lake.dropBookmark("spring");
      lake.dropTable("bird.sightings");
      lake.expire().keeping(Retention.EVERYTHING.andFor(Duration.ofNanos(1000))).run();
      assertThat(lake.droppedTables()).isEmpty();
      assertThat(lake.health().erasures()).hasSize(1);
      Condition ring = Condition.column("ring").equalTo("R-1");
      assertThat(lake.table("bird.ringed").erase(ring).run().rows()).isEqualTo(1);
      assertThat(lake.health().erasures()).isEmpty();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
    isGone(store);
    assertThat(Traces.of(store, "R-1")).isEmpty();
  }

  @Test
  void whatCameSinceTheSearchIsTakenOutByTheSameCommit() {
    List<Long> seen = new ArrayList<>();
    ForwardingStore beside =
        new ForwardingStore(store) {
          private int entries;

          @Override
          public boolean createIfAbsent(String name, byte[] content) {
            entries += name.startsWith("ledger/") ? 1 : 0;
            if (entries == 2 && seen.isEmpty()) { // the first one opens the erasure
              seen.add(0L);
              add(950);
            }
            boolean created = super.createIfAbsent(name, content);
            if (entries == 3 && seen.size() == 1) {
              try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(0))) {
                seen.add(lake.table("bird.sightings").scan().where(HER).count());
              }
            }
            return created;
          }
        };
    try (Lake lake = Lake.open(beside, LakeOptions.DEFAULTS.threads(0))) {
      long newest = lake.table("bird.sightings").now().version();
      lake.table("bird.sightings").erase(HER).includingBookmarks().run();
      assertThat(seen).containsExactly(0L, 0L);
      assertThat(lake.table("bird.sightings").now().version()).isEqualTo(newest + 1);
    }
    isGone(store);
  }

  @Test
  void aBookmarkThatIsMadeMeanwhileIsHeeded() {
    ForwardingStore beside =
        new ForwardingStore(store) {
          private int entries;

          @Override
          public boolean createIfAbsent(String name, byte[] content) {
            if (name.startsWith("ledger/") && ++entries == 3) { // behind the drop and the opening
              try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(0))) {
                lake.table("bird.sightings").bookmark("late", 4);
              }
            }
            return super.createIfAbsent(name, content);
          }
        };
    try (Lake lake = Lake.open(beside, LakeOptions.DEFAULTS.threads(0))) {
      Table table = lake.table("bird.sightings");
      lake.dropBookmark("spring");
      assertThatThrownBy(() -> table.erase(HER).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("late");
      assertThat(table.atBookmark("late").scan().where(HER).count()).isPositive();
      assertThat(table.erase(HER).includingBookmarks().run().rows()).isPositive();
    }
    isGone(store);
  }

  private void add(int id) {
    try (Lake lake = open();
        Append append = lake.table("bird.sightings").append()) {
      append.add(id, WHO, CALL, null);
      append.commit();
    }
  }

  @Test
  @SuppressWarnings("try") // the limits are there while they are open
  void whatIsInObjectsOfPagesGoesToo() {
    MemoryStore other = new MemoryStore();
    try (SmallEntries objects = new SmallEntries(1)) {
      make(other);
      assertThat(Traces.of(other, WHO)).anyMatch(name -> name.startsWith("pages/lake"));
      assertThat(Traces.of(other, WHO))
          .filteredOn(name -> name.startsWith("pages/") && !name.startsWith("pages/lake"))
          .isNotEmpty();
      try (Lake lake = Lake.open(other, LakeOptions.DEFAULTS.threads(1))) {
        lake.table("bird.sightings").erase(HER).includingBookmarks().run();
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      }
    }
    isGone(other);
  }

  @Test
  void whatIsLeftOfAFileIsWhereItWas() {
    try (Lake lake = open()) {
      Table table = lake.table("bird.sightings");
      Map<Long, Map<Long, FileEntry>> before = entries(table);
      table.erase(HER).includingBookmarks().run();
      int anew = 0;
      for (Map.Entry<Long, Map<Long, FileEntry>> version : entries(table).entrySet()) {
        for (FileEntry now : version.getValue().values()) {
          FileEntry then = before.get(version.getKey()).get(now.numbers().number());
          assertThat(now.key()).isEqualTo(then.key());
          assertThat(now.numbers().births()).isEqualTo(then.numbers().births());
          assertThat(now.numbers().writtenBy()).isEqualTo(then.numbers().writtenBy());
          assertThat(now.numbers().firstSerial()).isEqualTo(then.numbers().firstSerial());
          assertThat(now.rows()).isEqualTo(then.rows());
          for (int hidden : List.of(HiddenColumns.SERIAL_ID, HiddenColumns.BIRTH_ID)) {
            assertThat(now.trackedRanges().get(hidden)).isEqualTo(then.trackedRanges().get(hidden));
          }
          anew += now.hash().equals(then.hash()) ? 0 : 1;
        }
      }
      assertThat(anew).isPositive();
    }
  }

  /** By version and number. */
  private static Map<Long, Map<Long, FileEntry>> entries(Table table) {
    Map<Long, Map<Long, FileEntry>> entries = new TreeMap<>();
    for (TableVersion version : table.history(100)) {
      Map<Long, FileEntry> files = new TreeMap<>();
      table
          .at(version.version())
          .entries()
          .forEach(file -> files.put(file.numbers().number(), file));
      entries.put(version.version(), files);
    }
    return entries;
  }

  @Test
  void whoReadsMeanwhileIsToldOfIt() {
    try (Lake lake = open();
        Lake another = open()) {
      Table table = lake.table("bird.sightings");
      long all = table.at(4).scan().count();
      TableView before = another.table("bird.sightings").at(4);
      table.erase(HER).includingBookmarks().run();
      long left = table.at(4).scan().count();
      assertThat(left).isLessThan(all);
      try {
        assertThat(before.scan().rows().stream().count()).isIn(all, left);
      } catch (ExpiredException e) {
        assertThat(e).hasMessageContaining("tart again");
      }
      assertThat(another.table("bird.sightings").at(4).scan().count()).isEqualTo(left);
    }
  }

  @Test
  void authorsGoWhenThatIsSaid() {
    try (Lake opened = open()) {
      LakeHandle lake = opened.by("Dorrit Vane", "x");
      Table table = lake.table("bird.sightings");
      table.delete().where(Condition.column("id").equalTo(5)).run();
      table.erase(HER).includingBookmarks().run();
      assertThat(table.history(1).get(0).commit().author()).isEqualTo("Dorrit Vane");
      Condition other = Condition.column("observer").equalTo("Observer 1");
      lake.by("keeper", "x")
          .table("bird.sightings")
          .erase(other)
          .includingBookmarks()
          .withAuthors()
          .run();
      assertThat(table.history(1).get(0).commit().author()).isEqualTo("(redacted)");
    }
    assertThat(Traces.of(store, "Dorrit Vane")).isEmpty();
  }

  @Test
  void aReportThatCouldNotBeKeptIsHandedOverAgain() {
    MemoryStore store = new MemoryStore();
    try (Lake lake = Lake.create(store)) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      try (Append append = table.append()) {
        append.add(1).add(2);
        append.commit();
      }
      TableErase erase = table.erase(Condition.column("k").equalTo(1));
      assertThatThrownBy(
              () ->
                  erase.run(
                      report -> {
                        throw new IllegalStateException("the disk is full");
                      }))
          .hasMessage("the disk is full");
      assertThat(lake.health().erasures()).hasSize(1);
      List<ErasureReport> kept = new ArrayList<>();
      assertThat(erase.run(kept::add).rows()).isEqualTo(1);
      assertThat(kept).hasSize(1);
      assertThat(kept.get(0).done()).isPresent();
      assertThat(kept.get(0).done().get().endsOnly()).isTrue(); // whose it was is not known
      assertThat(lake.health().erasures()).isEmpty();
    }
  }
}
