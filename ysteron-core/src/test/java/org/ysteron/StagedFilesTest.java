package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Arrays;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.RowWriter;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;

/** A staged file is in one change, ever, and it is there when the change is committed. */
class StagedFilesTest {
  /** A lake of an earlier program, in which one object is in a table under two file numbers. */
  private static final Path TWICE = Path.of("src/test/resources/golden/format-1-twice");

  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.text()));

  @TempDir private Path directory;

  private final ObjectStore store = new MemoryStore();
  private Lake lake;
  private Table table;
  private LakeView pinned;
  private StagedRows staged;

  @BeforeEach
  void stageRows() {
    lake = Lake.create(store);
    table = lake.createTable("t.x", SCHEMA);
    add(0, 5);
    pinned = lake.now();
    staged = stage(100, 110);
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private void add(int from, int to) {
    try (Append append = table.append()) {
      for (int k = from; k < to; k++) {
        append.add(k, "added");
      }
      append.commit();
    }
  }

  private StagedRows stage(int from, int to) {
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      for (int k = from; k < to; k++) {
        writer.add(k, "staged");
      }
      return writer.finish();
    }
  }

  /** Another change with the same rows. */
  private StagedChange again() {
    return pinned
        .stagedChange()
        .adding(staged)
        .reading(table.id(), column("k").equalTo(-1), SCHEMA);
  }

  private void isRefused(StagedChange stagedChange) {
    assertThatThrownBy(() -> lake.apply(stagedChange))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("were already added by its version 2, as data file 1");
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
  }

  @Test
  void rowsAreNotStagedTwiceWhateverBecameOfThem() {
    lake.apply(pinned.stagedChange().adding(staged));
    isRefused(again());
    table.compact().full().run();
    isRefused(again());
    isRefused(pinned.stagedChange().adding(stage(200, 201)).adding(staged));
    table.delete().where(column("v").equalTo("staged")).run();
    table.compact().full().run();
    isRefused(again());
    assertThat(table.scan().count()).isEqualTo(5);
    table.rewind().to(2).run();
    table.rewind().to(1).run();
    isRefused(again());
    assertThat(table.scan().count()).isEqualTo(5);
  }

  @Test
  void otherRowsThatWereStagedAtTheSameTimeAreTaken() {
    StagedChange other = pinned.stagedChange().adding(stage(200, 205));
    lake.apply(pinned.stagedChange().adding(staged));
    add(5, 7);
    table.compact().full().run();
    assertThat(lake.apply(other).report().rowsInserted()).isEqualTo(5);
    assertThat(table.scan().count()).isEqualTo(22);
  }

  @Test
  void whenItIsNotKnownAnyMoreTheyAreNotTaken() {
    lake.apply(pinned.stagedChange().adding(staged));
    table.compact().full().run();
    add(5, 6);
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThatThrownBy(() -> lake.apply(again()))
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("it is unknown whether");
    assertThat(table.scan().count()).isEqualTo(16);
  }

  @Test
  void filesThatAreNotInTheLakeAreNotCommitted() {
    ObjectStore copy = new MemoryStore();
    StoreContents.copy(store, copy);
    String file =
        StoreContents.names(copy, "data").stream()
            .filter(name -> name.contains("/000000002-"))
            .findFirst()
            .orElseThrow();
    byte[] bytes = copy.read(file);
    copy.delete(file);
    try (Lake other = Lake.open(copy)) {
      assertThatThrownBy(() -> other.apply(pinned.stagedChange().adding(staged)))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining(file)
          .hasMessageContaining("is not there");
      copy.createIfAbsent(file, Arrays.copyOf(bytes, bytes.length - 1));
      assertThatThrownBy(() -> other.apply(pinned.stagedChange().adding(staged)))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("bytes instead of");
      assertThat(other.table("t.x").now().version()).isEqualTo(1);
      copy.delete(file);
      copy.createIfAbsent(file, bytes);
      assertThat(other.apply(pinned.stagedChange().adding(staged)).report().rowsInserted())
          .isEqualTo(10);
    }
  }

  @Test
  void whatAWorkerFinishesAfterAnErasureGoesWithTheNextSweep() {
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      table.erase(column("k").equalTo(3)).run();
      lake.sweep().now().run();
      table.erase(column("k").equalTo(4)).run();
      writer.add(3, "quillivane");
      writer.finish();
    }
    assertThat(Traces.of(store, "quillivane")).isNotEmpty();
    lake.sweep().now().run();
    assertThat(Traces.of(store, "quillivane")).isEmpty();
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
  }

  @Test
  void whatIsFreeUnderOneNumberAndNeededUnderAnotherIsNotSwept() throws IOException {
    try (Lake kept = GoldenLakeTest.open(TWICE, directory.resolve("lake"))) {
      Table twice = kept.table("tide.readings");
      assertThat(kept.check().run().findings()).hasSize(1);
      SweepReport swept = kept.sweep().now().run();
      assertThat(swept.deleted().get(SweepReport.Kind.FREED).objects()).isEqualTo(1);
      assertThat(twice.scan().rows().stream().count()).isEqualTo(25);
      assertThat(kept.check().depth(CheckDepth.BYTES).run().findings()).isEmpty();
      twice.compact().full().run();
      twice.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      swept = kept.sweep().now().run();
      assertThat(swept.deleted().get(SweepReport.Kind.FREED).objects()).isEqualTo(2);
      assertThat(twice.scan().rows().stream().count()).isEqualTo(25);
    }
  }
}
