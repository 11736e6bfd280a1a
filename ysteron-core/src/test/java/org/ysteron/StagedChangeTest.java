package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.expr.Condition;
import org.ysteron.option.Isolation;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;
import org.ysteron.task.WriteTask;

/** Staged changes that update rows, remove them by condition, and are numbers of writers. */
class StagedChangeTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)).withKey("k");

  private final ObjectStore store = new MemoryStore();
  private Lake lake;
  private Table table;

  @BeforeEach
  void create() {
    lake = Lake.create(store);
    table = lake.createTable("t.x", SCHEMA);
    add(0, 10);
    add(10, 20);
  }

  @AfterEach
  void close() {
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    lake.close();
  }

  private void add(int from, int to) {
    try (Append append = table.append()) {
      for (int k = from; k < to; k++) {
        append.add(k, (long) k);
      }
      append.commit();
    }
  }

  private static Map<Integer, Long> values(Table of) {
    Map<Integer, Long> values = new TreeMap<>();
    of.scan().rows().forEach(row -> values.put(row.getInt("k"), row.getLong("v")));
    return values;
  }

  /** The serial of each row, by its key. */
  private Map<Integer, Long> serials() {
    Map<Integer, Long> serials = new TreeMap<>();
    for (ScanTask task : table.scan().tasks()) {
      for (LocatedBatch batch : task.read(store)) {
        for (int i = 0; i < batch.serials().length; i++) {
          serials.put(batch.rows().row(i).getInt("k"), batch.serials()[i]);
        }
      }
    }
    return serials;
  }

  /** Rows that match get another value, as a worker would do it that has only bytes. */
  private StagedChange updating(LakeView pinned, Condition condition, long value) {
    return updating(pinned, pinned.writeTask("t.x"), condition, value);
  }

  private StagedChange updating(LakeView pinned, WriteTask task, Condition condition, long value) {
    StagedChange change = pinned.stagedChange();
    try (RowWriter writer = WriteTask.of(task.toBytes()).openForChanges(store, 0)) {
      for (ScanTask scan : pinned.table("t.x").scan().where(condition).tasks()) {
        for (LocatedBatch batch : ScanTask.of(scan.toBytes()).read(store)) {
          int[] keys = new int[batch.rows().size()];
          for (int i = 0; i < keys.length; i++) {
            keys[i] = batch.rows().row(i).getInt("k");
          }
          writer.addChanged(batch(value, keys), batch.serials());
          change = change.removing(scan, batch.positions());
        }
      }
      StagedRows rows = StagedRows.of(writer.finish().toBytes());
      return rows.rows() == 0 ? change : change.adding(rows);
    }
  }

  private static Batch batch(long value, int... keys) {
    VectorBuilder ks = new VectorBuilder(Types.INTEGER);
    VectorBuilder vs = new VectorBuilder(Types.BIGINT);
    for (int key : keys) {
      ks.add(key);
      vs.add(value);
    }
    return new Batch(SCHEMA.struct(), keys.length, List.of(ks.build(), vs.build()));
  }

  private StagedRows stage(WriteTask task, int from, int to) {
    try (RowWriter writer = task.open(store, 0)) {
      for (int k = from; k < to; k++) {
        writer.addRow(Row.of(SCHEMA.struct(), k, -1L));
      }
      return writer.finish();
    }
  }

  private WriteResult apply(StagedChange change) {
    return lake.apply(StagedChange.of(change.toBytes()));
  }

  private String newestOperation() {
    return table.history(1).get(0).operation();
  }

  @Test
  void newFormsOfRowsKeepTheirSerials() {
    Map<Integer, Long> before = serials();
    LakeView pinned = lake.now();
    StagedChange change = updating(pinned, column("k").atLeast(5), 7).as("update");
    change = change.adding(stage(pinned.writeTask("t.x"), 20, 22));

    WriteResult result = apply(change);

    assertThat(result.report().rowsUpdated()).isEqualTo(15);
    assertThat(result.report().rowsInserted()).isEqualTo(2);
    assertThat(result.report().rowsDeleted()).isZero();
    assertThat(newestOperation()).isEqualTo("update (staged)");
    Map<Integer, Long> after = serials();
    before.put(20, after.get(20));
    before.put(21, after.get(21));
    assertThat(after.get(20)).isGreaterThanOrEqualTo(20);
    assertThat(after).isEqualTo(before);
    assertThat(apply(change)).isEqualTo(WriteResult.NOTHING);
    table.compact().full().run();
    assertThat(serials()).isEqualTo(before);
    assertThat(apply(updating(lake.now(), column("k").atMost(5), 8)).report().rowsUpdated())
        .isEqualTo(6);
    assertThat(serials()).isEqualTo(before);
    assertThat(values(table)).containsEntry(5, 8L).containsEntry(6, 7L).containsEntry(20, -1L);
  }

  @Test
  void serialsOfRowsThatStayAreRefused() {
    LakeView pinned = lake.now();
    ScanTask task = pinned.table("t.x").scan().tasks().get(0);
    WriteTask write = pinned.writeTask("t.x");
    for (long[] serials : new long[][] {{1}, {0, 0}, {1000}, {0, 1}}) {
      try (RowWriter writer = write.openForChanges(store, 0)) {
        int[] keys = IntStream.range(100, 100 + serials.length).toArray();
        writer.addChanged(batch(1, keys), serials);
        StagedChange change = pinned.stagedChange().removing(task, 0).adding(writer.finish());
        assertThatThrownBy(() -> apply(change))
            .isInstanceOf(InvalidInputException.class)
            .hasMessageContaining("Nothing was changed; remove each row");
      }
    }
    try (RowWriter writer = write.open(store, 0)) {
      assertThatThrownBy(() -> writer.addChanged(batch(1, 1), 0))
          .hasMessageContaining("openForChanges");
    }
    assertThat(values(table)).hasSize(20);
  }

  @Test
  void rowsGoByConditionAndByPositionOnce() {
    table.delete().where(column("k").equalTo(3)).run();
    LakeView pinned = lake.now();
    ScanTask task = pinned.table("t.x").scan().tasks().get(0);
    StagedChange change =
        pinned
            .stagedChange()
            .removing(task, 0, 1)
            .removing(table.id(), column("k").lessThan(5), SCHEMA);
    assertThat(apply(change).report().rowsDeleted()).isEqualTo(4);
    LakeView later = lake.now();
    StagedChange all =
        later
            .stagedChange()
            .removing(table.id(), Condition.all(), SCHEMA)
            .adding(stage(later.writeTask("t.x"), 0, 3))
            .as("replace rows");
    assertThat(apply(all).report().rowsDeleted()).isEqualTo(15);
    assertThat(values(table)).isEqualTo(Map.of(0, -1L, 1, -1L, 2, -1L));
    assertThat(newestOperation()).isEqualTo("replace rows (staged)");
    StagedChange existing = lake.now().stagedChange();
    StagedRows rows = stage(lake.now().writeTask("t.x"), 2, 3);
    assertThatThrownBy(() -> apply(existing.adding(rows))).isInstanceOf(KeyExistsException.class);
    StagedChange none = later.stagedChange().removing(table.id(), column("k").equalTo(-5), SCHEMA);
    assertThat(apply(none).isCommitted()).isFalse();
    assertThatThrownBy(() -> later.stagedChange().as("Merge + (staged)"))
        .isInstanceOf(InvalidInputException.class);
  }

  @Test
  void rowsThatCameOrChangedSinceAreConflicts() {
    LakeView pinned = lake.now();
    StagedChange byCondition =
        pinned.stagedChange().removing(table.id(), column("k").atLeast(15), SCHEMA);
    StagedChange update = updating(pinned, column("k").equalTo(2), 9);
    StagedChange other = updating(pinned, column("k").equalTo(2), 10);
    StagedChange key = pinned.stagedChange().adding(stage(pinned.writeTask("t.x"), 30, 31));
    table.compact().full().run();
    add(30, 31);
    assertThatThrownBy(() -> apply(byCondition)).isInstanceOf(ConflictException.class);
    assertThat(apply(update).report().rowsUpdated()).isEqualTo(1); // beside packing
    assertThatThrownBy(() -> apply(other)).isInstanceOf(ConflictException.class);
    assertThatThrownBy(() -> apply(key)).isInstanceOf(ConflictException.class);
    assertThat(values(table)).hasSize(21).containsEntry(2, 9L);
  }

  @Test
  void aNumberOfAWriterCountsOnceHoweverItIsStaged() {
    NamedWriter writer = table.openWriter("stream");
    LakeView pinned = lake.now();
    WriteTask task = pinned.writeTask("t.x");
    StagedChange first = pinned.stagedChange().adding(stage(task, 40, 45));
    StagedChange again = pinned.stagedChange().adding(stage(task, 40, 46));

    apply(first.by(table.id(), "stream", writer.session(), 3));

    assertThat(writer.lastApplied()).isEqualTo(3);
    assertThat(apply(again.by(table.id(), "stream", writer.session(), 3)))
        .isEqualTo(WriteResult.NOTHING);
    assertThat(apply(again.by(table.id(), "stream", writer.session(), 2)))
        .isEqualTo(WriteResult.NOTHING);
    LakeView later = lake.now();
    try (Transaction work = lake.begin()) {
      StagedChange same = work.start().stagedChange().adding(stage(later.writeTask("t.x"), 50, 51));
      work.apply(same.by(table.id(), "stream", writer.session(), 3));
      assertThat(work.conflict()).isEmpty();
      assertThat(work.commit()).isEqualTo(WriteResult.NOTHING);
    }
    for (long session : new long[] {0, -1}) {
      assertThatThrownBy(() -> first.by(table.id(), "stream", session, 9))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("Sessions count from 1");
    }
    NamedWriter next = table.openWriter("stream");
    StagedChange late = lake.now().stagedChange();
    assertThatThrownBy(() -> apply(late.by(table.id(), "stream", writer.session(), 9)))
        .isInstanceOf(ConflictException.class);
    apply(late.by(table.id(), "stream", next.session(), 9).as("empty batch"));
    assertThat(next.lastApplied()).isEqualTo(9);
    assertThat(newestOperation()).isEqualTo("empty batch (staged)");
    assertThat(values(table)).hasSize(25);
  }

  @Test
  void theirTableIsCreatedOrAlteredInTheSameCommit() {
    try (Transaction work = lake.begin()) {
      work.createTable("t.new", SCHEMA);
      work.table("t.x").alter().add(Field.of("note", Types.text())).run();
      StagedChange change =
          work.start()
              .stagedChange()
              .adding(stage(work.writeTask("t.new"), 0, 5))
              .adding(stage(work.writeTask("t.x"), 20, 22))
              .removing(table.id(), column("k").lessThan(10), SCHEMA);
      assertThat(work.apply(change).report().rowsInserted()).isEqualTo(7);
      assertThat(work.table("t.new").scan().count()).isEqualTo(5);
      assertThatThrownBy(() -> work.apply(change)).isInstanceOf(InvalidInputException.class);
      assertThat(work.commit().report().rowsInserted()).isEqualTo(7);
    }
    assertThat(values(lake.table("t.new"))).hasSize(5);
    assertThat(values(table)).hasSize(12);
    assertThat(table.now().schema().columns()).hasSize(3);
    assertThat(newestOperation()).isEqualTo("alter + apply");
    LakeView old = lake.now();
    table.delete().where(column("k").equalTo(21)).run();
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      assertThatThrownBy(() -> work.apply(old.stagedChange()))
          .hasMessageContaining("stage it for the transaction's start");
    }
  }

  @Test
  void rowsOfATransactionAreNotAddedTwice() {
    LakeView pinned = lake.now();
    StagedChange change = pinned.stagedChange().adding(stage(pinned.writeTask("t.x"), 70, 72));
    try (Transaction one = lake.begin();
        Transaction two = lake.begin()) {
      one.apply(change);
      two.apply(change);
      one.commit();
      table.delete().where(column("k").atLeast(70)).run();
      assertThatThrownBy(two::commit)
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("were already added by its version");
    }
    assertThat(values(table)).hasSize(20);
  }

  @Test
  void stagedRowsAreDiscardedUnlessAVersionHasThem() {
    LakeView pinned = lake.now();
    StagedRows wanted = stage(pinned.writeTask("t.x"), 80, 82);
    StagedRows unwanted = stage(pinned.writeTask("t.x"), 80, 82);
    StagedChange late = pinned.stagedChange().adding(unwanted);
    apply(pinned.stagedChange().adding(wanted));
    table.delete().where(column("k").atLeast(80)).run();
    lake.discard(unwanted);
    lake.discard(unwanted);
    assertThatThrownBy(() -> lake.discard(wanted))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Version 3 of table t.x has these staged rows");
    assertThatThrownBy(() -> apply(late)).isInstanceOf(InvalidInputException.class);
    assertThat(values(table)).hasSize(20);
  }

  @Test
  void changesTellUpdatesAndWhatCameBefore() {
    apply(updating(lake.now(), column("k").equalTo(4), 44));
    apply(updating(lake.now(), column("k").equalTo(4), 45));
    assertThat(table.between(2, 4).summary().counts().updated()).isEqualTo(1);
    assertThat(table.between(2, 4).summary().counts().inserted()).isZero();
    table.rewind().to(2).run();
    assertThat(values(table)).containsEntry(4, 4L);
    apply(updating(lake.now(), column("k").equalTo(4), 46));
    assertThat(values(table)).containsEntry(4, 46L).hasSize(20);
  }

  @Test
  void ofTwoThatApplyTheSameNumberOneDoes() throws Exception {
    try (Lake other = Lake.open(store)) {
      for (int number = 0; number < 8; number++) {
        long session = table.openWriter("stream").session();
        LakeView pinned = lake.now();
        int from = 100 + 10 * number;
        List<Callable<Boolean>> both = new ArrayList<>();
        for (Lake each : List.of(lake, other)) {
          StagedChange change =
              pinned
                  .stagedChange()
                  .adding(stage(pinned.writeTask("t.x"), from, from + 2))
                  .by(table.id(), "stream", session, number);
          both.add(() -> each.apply(change).isCommitted());
        }
        ExecutorService threads = Executors.newFixedThreadPool(2);
        int committed = 0;
        for (Future<Boolean> each : threads.invokeAll(both)) {
          committed += each.get() ? 1 : 0;
        }
        threads.shutdown();
        assertThat(committed).isEqualTo(1);
        assertThat(values(table)).hasSize(20 + 2 * (number + 1));
      }
    }
  }
}
