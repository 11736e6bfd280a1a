package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentSkipListSet;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.Changes;
import org.ysteron.history.RowOrigin;
import org.ysteron.history.RowStep;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.LocalStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/** What changes are told as, what is refused, and how little is opened for them. */
class ChangesTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.INTEGER),
              Field.of("change", Types.text()))
          .withKey("k");

  /** Remembers which data files were opened, and counts reads of other objects. */
  private static final class Counting extends ForwardingStore {
    private final Set<String> files = new ConcurrentSkipListSet<>();
    private final AtomicInteger pages = new AtomicInteger();

    Counting(ObjectStore target) {
      super(target);
    }

    @Override
    public byte[] readRange(String name, long offset, int length) {
      pages.incrementAndGet();
      return super.readRange(name, offset, length);
    }

    @Override
    public ObjectInput open(String name) {
      if (name.startsWith("data/")) {
        files.add(name);
      }
      return super.open(name);
    }
  }

  private final MemoryStore memory = new MemoryStore();
  private final Counting store = new Counting(memory);
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeALake() {
    lake = Lake.create(store);
    table =
        lake.createTable("t.t", SCHEMA, TableSettings.DEFAULTS, LayoutPlan.none().every("k", 10));
    try (Append append = table.append()) {
      add(0, 100, append);
    }
  }

  private static void add(int from, int to, Append append) {
    for (int k = from; k < to; k++) {
      append.add(k, 0, "none");
    }
    append.commit();
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private void set(int from, int to, int v) {
    table.update().where(column("k").between(from, to)).set("v", v).style(ChangeStyle.MASK).run();
  }

  private static List<String> flat(Changes changes) {
    try (Results<Batch> batches = changes.flat()) {
      return batches.stream()
          .flatMap(batch -> batch.rows().stream())
          .map(row -> Arrays.toString(row.values()))
          .toList();
    }
  }

  @Test
  void flatRowsSayWhatHappenedBesideAColumnOfThatName() {
    set(3, 3, 1);
    table.delete().where(column("k").equalTo(5)).run();
    try (Append append = table.append()) {
      append.add(200, 7, null).commit();
    }
    Changes changes = table.between(1, 4);
    assertThat(changes.flatSchema().columns().stream().map(Field::name))
        .containsExactly("change_", "serial", "k", "v", "change");
    assertThat(flat(changes))
        .containsExactly(
            "[deleted, 5, 5, 0, none]",
            "[updated from, 3, 3, 0, none]",
            "[updated to, 3, 3, 1, none]",
            "[inserted, 101, 200, 7, null]");
    assertThat(flat(table.between(4, 1)))
        .containsExactly(
            "[deleted, 101, 200, 7, null]",
            "[updated from, 3, 3, 1, none]",
            "[updated to, 3, 3, 0, none]",
            "[inserted, 5, 5, 0, none]");
    assertThat(flat(changes.columns("v"))).hasSize(4).contains("[updated to, 3, 1]");
    assertThat(flat(changes.columns("k"))).hasSize(2);
  }

  @Test
  void aParquetFileHoldsThemAndIsNotOverwritten(@TempDir Path directory) {
    set(0, 49, 2);
    Path file = directory.resolve("changes.parquet");
    assertThat(table.between(1, 2).writeParquet(file)).isEqualTo(100);
    assertThatThrownBy(() -> table.between(1, 2).writeParquet(file))
        .isInstanceOf(AlreadyExistsException.class)
        .hasMessageContaining("already exists");
    assertThatThrownBy(() -> table.between(1, 2).writeParquet(directory.resolve("no/such.parquet")))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("does not exist");
    assertThatThrownBy(() -> table.between(1, 2).writeParquet(directory))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("is not a file");
    assertThat(file).exists().isNotEmptyFile();
    try (LocalStore there = LocalStore.existing(directory)) {
      assertThat(there.list("", "", 10)).hasSize(1);
    }
  }

  @Test
  void onlyTheFilesThatDifferAreOpened() {
    set(12, 14, 1);
    TreeSet<String> updated = new TreeSet<>();
    table.now().files().stream()
        .filter(file -> file.rows() == 3)
        .forEach(f -> updated.add(f.name()));
    store.files.clear();
    Changes changes = table.between(1, 2);
    assertThat(changes.count()).isEqualTo(new ChangeCounts(0, 0, 3, 0, false));
    // Of the new file its serials; of the old one, whose rows have none of their own, nothing.
    assertThat(store.files).isEqualTo(updated);
    store.files.clear();
    assertThat(flat(changes)).hasSize(6);
    assertThat(store.files).hasSize(2).containsAll(updated);
    store.files.clear();
    assertThat(flat(changes.where(column("k").greaterThan(20)))).isEmpty();
    assertThat(store.files).isEmpty();
  }

  @Test
  void theHistoryOfAKeyOpensTheFilesOfItsChangesAndFewPages() {
    for (int v = 1; v <= 40; v++) {
      if (v % 10 == 0) {
        set(42, 42, v);
      } else if (v % 10 == 5) {
        table.compact().full().run();
      } else {
        set(2 * v, 2 * v, v); // of other keys
      }
    }
    long versions = table.versionCount();
    try (Lake cold = Lake.open(store)) {
      Table same = cold.table("t.t");
      store.files.clear();
      store.pages.set(0);
      List<RowStep> steps = same.rowHistory(column("k").equalTo(42));
      assertThat(steps).extracting(step -> step.change().after().get("v")).endsWith(30, 40);
      assertThat(store.files.size()).isLessThanOrEqualTo(steps.size() + 2);
      assertThat(store.pages.get()).isLessThanOrEqualTo((int) (4 * versions));
    }
  }

  @Test
  void aColumnThatWasWidenedForAWhileIsNoChange() {
    table.alter().widen("v", Types.BIGINT).run();
    table.update().where(column("k").equalTo(42)).set("v", 0L).run();
    table.rewind().to(1).run();
    assertThat(table.rowHistory(column("k").equalTo(42)))
        .extracting(step -> step.at().toString())
        .containsExactly("version 1");
  }

  @Test
  void aVersionThatOnlyMovedRowsIsLookedAtBehindAGap() {
    table.bookmark("one", 1);
    set(42, 42, 5);
    table.compact().full().run();
    assertThat(table.now().record().onlyMoved()).isTrue();
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(table.rowHistory(column("k").equalTo(42), "v"))
        .extracting(step -> step.at() + ": " + step.change().after())
        .containsExactly("until version 1: {v=0}", "after version 1, until version 3: {v=5}");
  }

  @Test
  void theOriginOfRowsOpensNoOtherFileThanTheirs() {
    set(12, 14, 1);
    set(55, 55, 2);
    store.files.clear();
    try (Results<RowOrigin> rows = table.now().origins(column("k").equalTo(13))) {
      assertThat(rows.stream().toList())
          .extracting(row -> row.inserted() + ", " + row.changed())
          .containsExactly("version 1, version 2");
    }
    assertThat(store.files).hasSizeLessThanOrEqualTo(2);
  }

  @Test
  void bothVersionsInOneScanReadEachFileOnce() {
    set(12, 14, 1);
    store.files.clear();
    long rows = 0;
    try (Results<ChangeBatch> batches = table.between(1, 2).withUnchanged().batches()) {
      for (ChangeBatch batch : batches) {
        rows += batch.size();
        if (batch.kind() == ChangeKind.UNCHANGED) {
          assertThat(batch.before()).isSameAs(batch.after());
        }
      }
    }
    assertThat(rows).isEqualTo(100);
    assertThat(store.files).hasSize(11);
  }

  @Test
  void rowsArePairedByKeyIfAskedFor() {
    table.delete().where(column("k").between(5, 6)).run();
    try (Append append = table.append()) {
      append.add(5, 77, "again").add(6, 0, "none").commit();
    }
    Changes changes = table.between(1, 3);
    assertThat(changes.countExactly()).isEqualTo(new ChangeCounts(2, 2, 0, 0, true));
    assertThat(changes.pairedByKey().countExactly()).isEqualTo(new ChangeCounts(0, 0, 1, 1, true));
    assertThat(flat(changes.pairedByKey().columns("v")))
        .containsExactly("[updated from, 100, 0]", "[updated to, 100, 77]");
    Table keyless = lake.createTable("t.u", Schema.of(Field.of("k", Types.INTEGER)));
    assertThatThrownBy(() -> keyless.between(0, 0).pairedByKey().count())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("no primary key");
  }

  @Test
  void rowsOfWholeFilesAreCountedWithoutOpeningAny() {
    try (Append append = table.append()) {
      add(100, 200, append);
    }
    table.delete().where(column("k").between(30, 39)).style(ChangeStyle.MASK).run();
    table.delete().where(column("k").between(40, 44)).style(ChangeStyle.MASK).run();
    store.files.clear();
    assertThat(table.between(1, 4).count()).isEqualTo(new ChangeCounts(100, 15, 0, 0, true));
    assertThat(store.files).isEmpty();
  }

  @Test
  void rowsOfALostFileAreThoseThatTheMendDeleted() {
    String lost = table.now().files().get(3).name();
    long before = table.now().version();
    memory.delete(lost);
    assertThat(lake.mend().run().rows()).isEqualTo(10);
    Changes changes = table.between(before, before + 1);
    assertThat(changes.count()).isEqualTo(new ChangeCounts(0, 10, 0, 0, true));
    assertThatThrownBy(() -> flat(changes))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining(lost);
  }

  @Test
  void theSameVersionTwiceIsNoChange() {
    assertThat(table.between(1, 1).countExactly()).isEqualTo(ChangeCounts.NOTHING);
    assertThat(table.between(1, 1).steps()).isEmpty();
    assertThat(table.between(1, 1).summary().columns()).isEmpty();
  }

  @Test
  void stepsNeedEveryVersionUnlessKeptOnesAreAskedFor() {
    for (int v = 1; v <= 4; v++) {
      set(v, v, v);
    }
    table.bookmark("one", 1);
    table.expire().keeping(Retention.EVERYTHING.andNewest(2)).run();
    assertThat(table.between(1, 5).countExactly().updated()).isEqualTo(4);
    assertThatThrownBy(() -> table.between(1, 5).steps())
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("expired");
    assertThat(table.between(1, 5).keptSteps())
        .extracting(
            step -> step.version().version() + ":" + step.changes().countExactly().updated())
        .containsExactly("4:3", "5:1");
    Changes all = table.between(1, 5);
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    lake.dropBookmark("one");
    set(9, 9, 9);
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThatThrownBy(all::steps)
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("Version 1");
    assertThat(all.keptSteps()).isEmpty();
    assertThatThrownBy(() -> table.between(2, 5)).isInstanceOf(ExpiredException.class);
    assertThatThrownBy(() -> table.between(6, 9)).isInstanceOf(NotFoundException.class);
  }

  @Test
  void versionsOfTwoTablesAreRefused() {
    Table other = lake.createTable("t.other", SCHEMA);
    assertThatThrownBy(() -> table.now().changesTo(other.now()))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("t.other");
    TableView before = table.now();
    lake.dropTable("t.t");
    Table again = lake.createTable("t.t", SCHEMA);
    assertThatThrownBy(() -> before.changesTo(again.now()))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("one of which was dropped");
  }

  @Test
  void aConditionOnAColumnOfOneVersionMeansWhatOldRowsHave() {
    table.alter().add(Field.of("w", Types.INTEGER).withDefault(4)).run();
    set(1, 1, 9);
    Changes changes = table.between(1, 3);
    assertThat(changes.where(column("w").equalTo(4)).countExactly().updated()).isEqualTo(1);
    assertThat(changes.where(column("w").equalTo(5)).countExactly().total()).isZero();
    assertThatThrownBy(() -> changes.withColumnsOf(1).where(column("w").equalTo(4)).countExactly())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("w");
    table.alter().drop("v").run();
    Changes dropped = table.between(1, 4).withColumnsOf(1);
    assertThat(dropped.schema().struct().indexOf("v")).isNegative();
    assertThatThrownBy(() -> dropped.where(column("v").equalTo(0)).count())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("was dropped between versions 1 and 4");
    assertThatThrownBy(() -> changes.columns("x").countExactly())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("x");
  }
}
