package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.copying.SmallCopies;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.maintenance.UpkeepPlan;
import org.ysteron.maintenance.UpkeepReport;
import org.ysteron.option.Budget;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.report.TableFile;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.LocalStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.StoreException;
import org.ysteron.task.RowWriter;

/** What a sweep deletes, what it leaves, and what may go on beside it. */
@Timeout(120)
class SweepTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
  private static final Retention NEWEST = Retention.EVERYTHING.andNewest(1);

  @TempDir Path directory;

  private final MemoryStore store = new MemoryStore();

  private static void append(Table table, int... keys) {
    try (Append append = table.append()) {
      for (int key : keys) {
        append.add(key, "row " + key);
      }
      append.commit();
    }
  }

  private static List<Integer> keys(Scan scan) {
    List<Integer> keys = new ArrayList<>();
    try (Results<Row> rows = scan.rows()) {
      rows.forEach(row -> keys.add(row.getInt("k")));
    }
    keys.sort(null);
    return keys;
  }

  private static List<Integer> range(int from, int to) {
    return IntStream.range(from, to).boxed().toList();
  }

  @Test
  void aScanWhoseVersionExpiresSaysSo() {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      for (int k = 0; k < 30; k++) {
        append(table, k);
      }
      Iterator<Row> rows = table.scan().rows().iterator();
      rows.next();
      table.delete().all().run();
      table.expire().keeping(NEWEST).run();
      lake.sweep().now().run();
      assertThatThrownBy(
              () -> {
                while (rows.hasNext()) {
                  rows.next();
                }
              })
          .isInstanceOf(ExpiredException.class)
          .hasMessageContaining("Version 30 of table t.x expired on ");
    }
  }

  @Test
  @SuppressWarnings("try") // the limits are there while they are open
  void aScanOfAKeptVersionGoesOnWherePagesWereCopied() {
    try (SmallPages pages = new SmallPages(400, 0);
        Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1));
        Lake other = Lake.open(store)) {
      Table table = lake.createTable("t.x", SCHEMA);
      for (int k = 0; k < 60; k++) {
        append(table, k);
      }
      table.delete().where(column("k").equalTo(59)).style(ChangeStyle.MASK).run();
      try (Lake fresh = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
        Iterator<Row> rows = fresh.table("t.x").scan().rows().iterator();
        List<Integer> read = new ArrayList<>(List.of(rows.next().getInt("k")));
        append(table, 100);
        assertThat(other.sweep().now().withEntries().run().copied()).isPositive();
        assertThat(StoreContents.names(store, "ledger")).hasSizeLessThan(8);
        rows.forEachRemaining(row -> read.add(row.getInt("k")));
        assertThat(read).containsExactlyElementsOf(range(0, 59));
      }
    }
  }

  @Test
  void whatAWriterLeftThatDiedIsDeletedAndWhatIsNotTheLakesIsNamed() {
    LocalStore disk = new LocalStore(directory.resolve("lake"));
    try (Lake lake = Lake.create(disk, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      try (RowWriter dead = lake.now().writeTask("t.x").open(disk, 0)) {
        dead.addRow(Row.of(SCHEMA.struct(), 2, "staged, and never committed"));
        dead.finish();
      }
      String files = "data/" + table.id() + "/";
      write(
          files
              + ".writing-000000001-%s.parquet-%s".formatted(UUID.randomUUID(), UUID.randomUUID()));
      write(files + "000000999-" + UUID.randomUUID() + ".parquet");
      write("probe/left-0");
      write("data/readme.txt");
      SweepReport would = lake.sweep().now().dryRun();
      assertThat(StoreContents.names(disk, "data")).hasSize(4);
      SweepReport swept = lake.sweep().now().run();
      assertThat(swept.deleted().get(SweepReport.Kind.STRAY).objects()).isEqualTo(2);
      assertThat(would.deleted().get(SweepReport.Kind.STRAY).objects()).isEqualTo(2);
      assertThat(swept.deleted().get(SweepReport.Kind.UNFINISHED).objects()).isEqualTo(1);
      assertThat(swept.foreign()).containsExactly("data/readme.txt");
      // One that says that its writer starts from an entry to come is not old.
      assertThat(StoreContents.names(disk, "data")).hasSize(3);
      assertThat(keys(table.scan())).containsExactly(1);
    }
  }

  private void write(String name) {
    try {
      Path file = directory.resolve("lake").resolve(name);
      Files.createDirectories(file.getParent());
      Files.writeString(file, "left");
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  @Test
  void severalMachinesSweepWhileOthersWrite() {
    Path place = directory.resolve("lake");
    try (Lake lake = Lake.create(place)) {
      lake.createTable("t.x", SCHEMA.withKey("k"));
    }
    List<Thread> threads = new ArrayList<>();
    List<Throwable> failures = new CopyOnWriteArrayList<>();
    AtomicBoolean isOver = new AtomicBoolean();
    for (int machine = 0; machine < 5; machine++) {
      threads.add(
          new Thread(
              () -> {
                try (Lake lake = Lake.open(place)) {
                  while (!isOver.get()) {
                    lake.expire().keeping(Retention.EVERYTHING.andNewest(3)).run();
                    lake.sweep().after(Duration.ofMillis(300)).withEntries().run();
                    lake.upkeep().run();
                  }
                } catch (ConflictException e) {
                  // others were faster
                }
              }));
    }
    Set<Integer> there = new TreeSet<>();
    Thread writer =
        new Thread(
            () -> {
              try (Lake lake = Lake.open(place)) {
                Table table = lake.table("t.x");
                for (int k = 0; k < 40; k++) {
                  appendAtLast(table, k);
                  there.add(k);
                  if (k % 3 == 0) {
                    table.delete().where(column("k").equalTo(k / 2)).run();
                    there.remove(k / 2);
                  }
                }
              } finally {
                isOver.set(true);
              }
            });
    threads.add(writer);
    for (Thread thread : threads) {
      thread.setUncaughtExceptionHandler((t, e) -> failures.add(e));
      thread.start();
    }
    for (Thread thread : threads) {
      join(thread);
    }
    assertThat(failures).isEmpty();
    try (Lake lake = Lake.open(place)) {
      assertThat(keys(lake.table("t.x").scan())).containsExactlyElementsOf(there);
      lake.expire().keeping(NEWEST).run();
      lake.sweep().now().withEntries().full().run();
      assertThat(StoreContents.names(new LocalStore(place), "data"))
          .containsExactlyInAnyOrderElementsOf(
              lake.table("t.x").now().files().stream().map(TableFile::name).toList());
    }
  }

  /** Again when it took so long that its start is below the horizon by now. */
  private static void appendAtLast(Table table, int key) {
    while (true) {
      try {
        append(table, key);
        return;
      } catch (ConflictException e) {
        assertThat(e.kind()).isEqualTo(ConflictException.Kind.SNAPSHOT_TOO_OLD);
      }
    }
  }

  private static void join(Thread thread) {
    try {
      thread.join();
    } catch (InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  @Test
  void aLakeWhoseNewestEntryIsDamagedIsNotSwept() {
    byte[][] damaged = new byte[1][];
    ForwardingStore view =
        new ForwardingStore(store) {
          private boolean is(String name) {
            return damaged[0] != null && name.equals("ledger/000/000/006");
          }

          @Override
          public byte[] readRange(String name, long offset, int length) {
            byte[] bytes = super.readRange(name, offset, length);
            if (is(name)) {
              bytes[length / 2] ^= 1;
            }
            return bytes;
          }

          @Override
          public ObjectInput open(String name) {
            return is(name) ? new ZeroInput() : super.open(name);
          }
        };
    try (Lake lake = Lake.create(view, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      table.delete().all().run();
      table.expire().keeping(NEWEST).run();
      append(table, 2);
      append(table, 3);
    }
    Set<String> before = StoreContents.names(store, "");
    damaged[0] = new byte[0];
    assertThatThrownBy(
            () -> {
              try (Lake lake = Lake.open(view)) {
                lake.sweep().now().withEntries().run();
              }
            })
        .isInstanceOf(DamagedException.class);
    assertThat(StoreContents.names(store, "")).isEqualTo(before);
  }

  /** What is there instead of an entry. */
  private static final class ZeroInput implements ObjectInput {
    @Override
    public long size() {
      return 100;
    }

    @Override
    public void readFully(long offset, ByteBuffer target) {
      while (target.hasRemaining()) {
        target.put((byte) 0);
      }
    }

    @Override
    public void close() {}
  }

  @Test
  void aLakeThatAnotherTookThePlaceOfIsNotSwept() {
    PlaceStore switched = new PlaceStore(store);
    Lake lake = Lake.create(switched, LakeOptions.DEFAULTS.threads(1));
    Table table = lake.createTable("t.x", SCHEMA);
    append(table, 1);
    table.delete().all().run();
    table.expire().keeping(NEWEST).run();
    MemoryStore others = new MemoryStore();
    try (Lake another = Lake.create(others, LakeOptions.DEFAULTS.threads(1))) {
      Table theirs = another.createTable("t.x", SCHEMA);
      for (int i = 0; i < 9; i++) {
        append(theirs, i);
      }
    }
    Set<String> before = StoreContents.names(others, "");
    switched.now = others;
    assertThatThrownBy(() -> lake.sweep().now().run()).isInstanceOf(WrongLakeException.class);
    assertThat(StoreContents.names(others, "")).isEqualTo(before);
  }

  @Test
  void aStoreThatLetsNothingBeDeletedFailsWithAWordAndNothingIsLost() {
    boolean[] isReadOnly = {true};
    ForwardingStore view =
        new ForwardingStore(store) {
          @Override
          public void delete(String name) {
            if (isReadOnly[0] && !name.startsWith("probe/")) {
              throw new StoreException("Nothing may be deleted here: " + name);
            }
            super.delete(name);
          }
        };
    try (Lake lake = Lake.create(view, LakeOptions.DEFAULTS.threads(2))) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      table.delete().all().run();
      append(table, 2);
      table.expire().keeping(NEWEST).run();
      assertThatThrownBy(() -> lake.sweep().now().run())
          .isInstanceOf(StoreException.class)
          .hasMessageContaining("Nothing may be deleted here");
      assertThat(keys(table.scan())).containsExactly(2);
      isReadOnly[0] = false;
      assertThat(lake.sweep().now().run().deleted().get(SweepReport.Kind.FREED).objects())
          .isEqualTo(1);
    }
  }

  @Test
  void deletesThatShowLateAreDeletedTwiceAndHarmNothing() {
    List<String> late = new ArrayList<>();
    ForwardingStore view =
        new ForwardingStore(store) {
          @Override
          public void delete(String name) {
            late.add(name);
          }
        };
    try (Lake lake = Lake.create(view, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      table.delete().all().run();
      append(table, 2);
      table.expire().keeping(NEWEST).run();
      lake.sweep().now().withEntries().run();
      lake.sweep().now().withEntries().full().run();
      late.forEach(store::delete);
      late.forEach(store::delete);
      assertThat(keys(table.scan())).containsExactly(2);
      append(table, 3);
    }
    try (Lake lake = Lake.open(store)) {
      assertThat(keys(lake.table("t.x").scan())).containsExactly(2, 3);
    }
  }

  @Test
  void whoWorkedOnALakeThatWasPutBackIsRefused() {
    PlaceStore switched = new PlaceStore(store);
    Lake lake = Lake.create(switched, LakeOptions.DEFAULTS.threads(1));
    Table table = lake.createTable("t.x", SCHEMA);
    append(table, 1);
    MemoryStore copy = new MemoryStore();
    StoreContents.copy(store, copy);
    append(table, 2);
    try (Append late = table.append()) {
      late.add(3, "on the line that was lost");
      switched.now = copy;
      try (Lake back = Lake.open(copy)) {
        back.confirmRestore();
        append(back.table("t.x"), 4);
        append(back.table("t.x"), 5);
        back.sweep().now().run();
      }
      assertThatThrownBy(late::commit).isInstanceOf(YsteronException.class);
    }
    assertThatThrownBy(() -> append(table, 6)).isInstanceOf(WrongLakeException.class);
    try (Lake back = Lake.open(copy)) {
      assertThat(keys(back.table("t.x").scan())).containsExactly(1, 4, 5);
    }
  }

  @Test
  void programsThatDoNotKnowOfHorizonsAreKeptOut() {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      assertThat(firstLine(2)).contains("\"writers must know\":[]");
      table.bookmark("one");
      assertThat(firstLine(3)).contains("\"readers must know\":[]").contains("[\"holds\"]");
      append(table, 2);
      table.expire().keeping(NEWEST).run();
      append(table, 3);
      assertThat(firstLine(6))
          .contains("\"readers must know\":[\"expiry\"]")
          .contains("\"writers must know\":[\"holds\",\"expiry\"]");
    }
  }

  private String firstLine(int entry) {
    String text =
        new String(store.read("ledger/000/000/%03d".formatted(entry)), StandardCharsets.UTF_8);
    return text.substring(0, text.indexOf('\n'));
  }

  @Test
  @SuppressWarnings("try") // the limits are there while they are open
  void objectsOfPagesThatHoldLittleThatLivesAreCopiedAndGo() {
    try (SmallCopies copies = new SmallCopies(true, true);
        SmallEntries entries = new SmallEntries(1);
        SmallPages pages = new SmallPages(400, 0);
        Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      for (int k = 0; k < 40; k++) {
        append(table, k);
      }
      table.expire().keeping(Retention.EVERYTHING.andNewest(2)).run();
      int before = StoreContents.names(store, "pages").size();
      lake.sweep().now().withEntries().run();
      lake.sweep().now().withEntries().run();
      assertThat(StoreContents.names(store, "pages")).hasSizeLessThan(before / 2);
      assertThat(keys(table.scan())).containsExactlyElementsOf(range(0, 40));
      assertThat(keys(table.at(39).scan())).containsExactlyElementsOf(range(0, 39));
    }
    try (Lake lake = Lake.open(store)) {
      assertThat(keys(lake.table("t.x").scan())).containsExactlyElementsOf(range(0, 40));
    }
  }

  @Test
  void upkeepDoesWhatIsDueWithinABudget() {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      for (int k = 0; k < 40; k++) {
        append(table, k);
      }
      lake.set(TableSettings.KEEP_NEWEST, 5);
      UpkeepPlan plan = lake.upkeep().dryRun();
      assertThat(plan.rules()).containsEntry("t.x", "the newest 5");
      assertThat(plan.expiry().versions()).isEqualTo(36);
      assertThat(plan.packing()).containsKey("t.x");
      LakeHealth health = lake.health();
      assertThat(health.tables().get("t.x").dueNow()).isEqualTo(36);
      UpkeepReport report = lake.upkeep().within(Budget.ALL.ofTime(Duration.ofMinutes(1))).run();
      assertThat(report.expiry().versions()).isEqualTo(36);
      assertThat(report.packed()).containsKey("t.x");
      assertThat(report.failed()).isEmpty();
      assertThat(keys(table.scan())).containsExactlyElementsOf(range(0, 40));
      lake.set(LakeSettings.PACK, false);
      append(table, 40);
      assertThat(lake.upkeep().run().packed()).isEmpty();
      assertThat(lake.health().free().objects())
          .isEqualTo(lake.sweep().dryRun().waiting().objects());
    }
  }

  @Test
  void aLakePinnedLongAgoSaysThatItHasExpired() {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1));
        Lake other = Lake.open(store)) {
      Table table = lake.createTable("t.x", SCHEMA);
      append(table, 1);
      LakeView pinned = other.now();
      TableView version = pinned.table("t.x");
      append(table, 2);
      table.delete().all().style(ChangeStyle.REWRITE).run();
      lake.expire().keeping(NEWEST).run();
      lake.sweep().now().withEntries().run();
      assertThatThrownBy(() -> keys(version.scan())).isInstanceOf(ExpiredException.class);
      assertThatThrownBy(() -> keys(pinned.table("t.x").scan()))
          .isInstanceOf(ExpiredException.class);
      assertThat(other.table("t.x").scan().count()).isZero();
    }
  }
}
