package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.function.Function;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;
import org.ysteron.task.WriteTask;

/**
 * A lake to which a staged change was applied, and the byte forms of that time: tasks, that staged
 * change, and one that is still to be applied. Made once by {@link #main} and kept.
 */
class GoldenRemoteTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-remote");
  private static final Path FORMS = Path.of("src/test/resources/golden/format-1-remote-forms");

  @TempDir Path directory;
  private ObjectStore store;
  private Lake lake;
  private Table table;

  /** Writes a lake to keep, and the forms beside it. */
  public static void main(String[] arguments) throws IOException {
    Path directory = Path.of(arguments[0]);
    Path forms = Files.createDirectories(Path.of(arguments[1]));
    ObjectStore store = new LocalStore(directory);
    try (Lake lake = Lake.create(store)) {
      Type.Struct place = (Type.Struct) Types.struct(Field.of("depth", Types.DOUBLE));
      Table table =
          lake.createTable(
              "t.x",
              Schema.of(
                      Field.of("k", Types.INTEGER),
                      Field.of("v", Types.BIGINT),
                      Field.of("at", place))
                  .withKey("k"),
              TableSettings.DEFAULTS,
              LayoutPlan.none().every("k", 100));
      try (Append append = table.append()) {
        for (int k = 0; k < 300; k++) {
          append.add(k, 10L * k, Row.of(place, k / 2.0));
        }
        append.commit();
      }
      table.alter().rename("v", "level").run();
      table.delete().where(column("k").between(10, 19)).style(ChangeStyle.MASK).run();
      StagedChange applied = replacing(lake, store, 50, 400);
      StagedChange waiting = replacing(lake, store, 150, 500);
      lake.noting("by others").apply(applied);
      Scan scan = table.scan().columns("at.depth", "level").where(column("k").lessThan(15));
      Files.write(forms.resolve("scan-task.json"), scan.tasks().get(0).toBytes());
      Files.write(forms.resolve("write-task.json"), lake.now().writeTask("t.x").toBytes());
      Files.write(forms.resolve("applied-delta.json"), applied.toBytes());
      Files.write(forms.resolve("waiting-delta.json"), waiting.toBytes());
    }
  }

  /** A staged change that takes a row away, adds another, and has read a third. */
  private static StagedChange replacing(Lake lake, ObjectStore store, int gone, int come) {
    LakeView pinned = lake.now();
    TableView view = pinned.table("t.x");
    ScanTask task = view.scan().where(column("k").equalTo(gone)).tasks().get(0);
    LocatedBatch found = task.read(store).iterator().next();
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      writer.add(come, 1L, null);
      return pinned
          .stagedChange()
          .removing(task, found.positions())
          .adding(writer.finish())
          .reading(lake.table("t.x").id(), column("k").equalTo(come + 1), view.schema());
    }
  }

  @BeforeEach
  void openKept() throws IOException {
    GoldenLakeTest.open(KEPT, directory.resolve("lake")).close();
    store = LocalStore.existing(directory.resolve("lake"));
    lake = Lake.open(store);
    table = lake.table("t.x");
  }

  @AfterEach
  void closeLake() {
    lake.close();
  }

  private static <T> T form(String name, Function<byte[], T> from) throws IOException {
    return from.apply(Files.readAllBytes(FORMS.resolve(name)));
  }

  private List<String> around(int k) {
    return table.scan().where(column("k").between(k - 1, k + 1)).rows().stream()
        .map(Row::toString)
        .toList();
  }

  @Test
  void theDeltaIsThereAndIsNotAppliedAgain() throws IOException {
    assertThat(table.scan().count()).isEqualTo(290);
    assertThat(around(50))
        .containsExactly(
            "{k=49, level=490, at={depth=24.5}}", "{k=51, level=510, at={depth=25.5}}");
    assertThat(around(400)).containsExactly("{k=400, level=1, at=null}");
    StagedChange applied = form("applied-delta.json", StagedChange::of);
    assertThat(table.history(1).get(0).commit().commitId()).isEqualTo(applied.id());
    assertThat(lake.apply(applied).isCommitted()).isFalse();
    assertThat(table.now().version()).isEqualTo(4);
  }

  @Test
  void theDeltaThatWaitedIsApplied() throws IOException {
    StagedChange waiting = form("waiting-delta.json", StagedChange::of);
    assertThat(waiting.toBytes())
        .isEqualTo(Files.readAllBytes(FORMS.resolve("waiting-delta.json")));
    assertThat(lake.apply(waiting).commit().orElseThrow().commitId()).isEqualTo(waiting.id());
    assertThat(around(150)).hasSize(2);
    assertThat(around(500)).containsExactly("{k=500, level=1, at=null}");
    table.rewrite().run();
    assertThat(lake.apply(waiting).isCommitted()).isFalse();
    assertThat(table.scan().count()).isEqualTo(290);
  }

  @Test
  void whatItHasReadIsTested() throws IOException {
    table.openWriter("w").append(1, rows -> rows.add(501, 1L, null));
    StagedChange waiting = form("waiting-delta.json", StagedChange::of);
    assertThatThrownBy(() -> lake.apply(waiting)).isInstanceOf(ConflictException.class);
  }

  @Test
  void tasksAreRun() throws IOException {
    ScanTask scan = form("scan-task.json", ScanTask::of);
    assertThat(RemoteProcess.rows(scan, store))
        .hasSize(10)
        .first()
        .isEqualTo("row 0 0 0 {at={depth=0.0}, level=0}");
    WriteTask write = form("write-task.json", WriteTask::of);
    try (RowWriter writer = write.open(store, 0)) {
      Type.Struct place = (Type.Struct) table.schema().find("at").type();
      writer.add(600, 7L, Row.of(place, 0.5));
      lake.apply(lake.atEntry(write.entry()).stagedChange().adding(writer.finish()));
    }
    assertThat(around(600)).containsExactly("{k=600, level=7, at={depth=0.5}}");
  }
}
