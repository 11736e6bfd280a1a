package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Random;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.Consumer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.WriteResult;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;
import org.ysteron.task.WriteTask;

/** Scans and writes in processes that have the store only, committed by one that has the lake. */
class RemoteTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.BIGINT),
              Field.of("note", Types.text()))
          .withKey("k");

  @TempDir Path directory;
  private ObjectStore store;
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeLake() {
    store = new LocalStore(directory.resolve("lake"));
    lake = Lake.create(store);
    table =
        lake.createTable("t.x", SCHEMA, TableSettings.DEFAULTS, LayoutPlan.none().every("k", 1000));
    try (Append append = table.append()) {
      for (int k = 0; k < 3000; k++) {
        append.add(k, k, "n" + k % 7);
      }
      append.commit();
    }
    table.delete().where(column("k").between(100, 149)).style(ChangeStyle.MASK).run();
    table.update().where(column("k").lessThan(20)).set("v", -1).style(ChangeStyle.REWRITE).run();
    table.alter().rename("note", "word").run();
  }

  @AfterEach
  void closeLake() {
    lake.close();
  }

  /** Has lines worked on by another process. */
  private List<String> elsewhere(List<String> lines) throws Exception {
    Process process =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                RemoteProcess.class.getName(),
                directory.resolve("lake").toString())
            .redirectError(ProcessBuilder.Redirect.DISCARD)
            .start();
    try (Writer out = process.outputWriter(StandardCharsets.UTF_8)) {
      for (String line : lines) {
        out.write(line + "\n");
      }
    }
    List<String> answers =
        new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8))
            .lines()
            .toList();
    assertThat(process.waitFor()).isZero();
    return answers;
  }

  private static String text(byte[] bytes) {
    return Base64.getEncoder().encodeToString(bytes);
  }

  private List<String> located(List<ScanTask> tasks) {
    List<String> located = new ArrayList<>();
    tasks.forEach(task -> located.addAll(RemoteProcess.rows(task, store)));
    return located;
  }

  @Test
  void anotherProcessScansAndStagesAndThisOneCommits() throws Exception {
    LakeView pinned = lake.now();
    Scan scan = pinned.table("t.x").scan().where(column("k").between(90, 1200));
    List<ScanTask> tasks = scan.tasks();
    assertThat(tasks).hasSizeBetween(2, 3);
    List<String> lines = new ArrayList<>();
    tasks.forEach(task -> lines.add("scan " + text(task.toBytes())));
    WriteTask write = pinned.writeTask("t.x");
    lines.add("write " + text(write.toBytes()) + " 5000 7500");
    lines.add("write " + text(write.toBytes()) + " 8000 8010");
    List<String> answers = elsewhere(lines);
    List<String> rows = answers.stream().filter(line -> line.startsWith("row ")).toList();
    assertThat(rows).isEqualTo(located(tasks)).hasSize((int) scan.count());
    assertThat(rows.stream().map(row -> row.split(" ", 5)[4]))
        .containsExactlyInAnyOrderElementsOf(scan.rows().stream().map(Row::toString).toList());
    StagedChange stagedChange =
        pinned.stagedChange().reading(table.id(), column("k").lessThan(5000), table.schema());
    long staged = 0;
    for (String answer : answers.subList(rows.size(), answers.size())) {
      StagedRows some = StagedRows.of(Base64.getDecoder().decode(answer.split(" ", 2)[1]));
      assertThat(some.table()).isEqualTo(table.id());
      staged += some.rows();
      stagedChange = stagedChange.adding(some);
    }
    assertThat(staged).isEqualTo(2510);
    ScanTask first = tasks.get(0);
    int[] removed = first.read(store).iterator().next().positions();
    stagedChange = stagedChange.removing(first, removed);
    long before = table.scan().count();
    WriteResult result =
        lake.noting("from elsewhere").apply(StagedChange.of(stagedChange.toBytes()));
    assertThat(result.report().rowsInserted()).isEqualTo(2510);
    assertThat(result.report().rowsDeleted()).isEqualTo(removed.length);
    assertThat(table.scan().count()).isEqualTo(before + 2510 - removed.length);
    assertThat(table.scan().where(column("word").equalTo("from elsewhere")).count())
        .isEqualTo(2510);
    assertThat(table.history(1).get(0).commit().note()).isEqualTo("from elsewhere");
    assertThat(table.now().files()).filteredOn(file -> file.rows() == 10).hasSize(1);
    // What came has serials of its own, and can be changed and packed like anything.
    table.update().where(column("k").greaterThan(7000)).set("v", 0).run();
    table.rewrite().run();
    assertThat(table.scan().where(column("v").equalTo(0)).count()).isEqualTo(509);
  }

  @Test
  void partsOfATaskGiveTheRowsOfTheWhole() {
    List<ScanTask> tasks = table.scan().tasks();
    List<ScanTask> parts = new ArrayList<>();
    tasks.forEach(task -> parts.addAll(task.split(4)));
    assertThat(parts).hasSizeGreaterThan(tasks.size());
    assertThat(located(parts)).isEqualTo(located(tasks));
    assertThat(located(tasks).stream().map(row -> row.split(" ", 5)[3])).doesNotHaveDuplicates();
    List<ScanTask> narrow = table.scan().columns("word").where(column("k").equalTo(7)).tasks();
    assertThat(located(narrow)).hasSize(1).first().asString().endsWith("{word=n0}");
  }

  @Test
  void aTaskIsCutAtRowGroups() {
    TableSettings small = TableSettings.DEFAULTS.groupBytes(64 << 10);
    Table many = lake.createTable("t.many", SCHEMA, small);
    try (Append append = many.append()) {
      for (int k = 0; k < 60_000; k++) {
        append.add(k, 77L * k, "word " + k);
      }
      append.commit();
    }
    many.delete().where(column("k").between(20_000, 29_999)).style(ChangeStyle.MASK).run();
    ScanTask task = many.scan().where(column("v").notEqualTo(77L)).tasks().get(0);
    List<ScanTask> groups = task.byRowGroup(store);
    assertThat(groups).hasSizeGreaterThan(5);
    assertThat(groups.stream().mapToLong(ScanTask::rows).sum()).isEqualTo(60_000);
    assertThat(located(groups)).isEqualTo(located(List.of(task))).hasSize(49_999);
    List<ScanTask> parts = new ArrayList<>();
    for (ScanTask half : task.split(3)) {
      assertThat(half.byRowGroup(store)).hasSizeBetween(2, groups.size() - 1);
      half.byRowGroup(store).forEach(part -> parts.add(ScanTask.of(part.toBytes())));
    }
    assertThat(located(parts)).isEqualTo(located(groups));
    ScanTask nested = many.scan().columns("note", "k").tasks().get(0);
    assertThat(ScanTask.of(nested.toBytes()).schema().columns())
        .isEqualTo(nested.schema().columns());
  }

  private StagedRows stage(LakeView pinned, int from, int to) {
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      for (int k = from; k < to; k++) {
        writer.addRow(Row.of(table.schema().struct(), k, 0L, "staged"));
      }
      return writer.finish();
    }
  }

  @Test
  void itMeetsOthersAsATransactionDoes() {
    LakeView pinned = lake.now();
    StagedRows staged = stage(pinned, 9000, 9010);
    ScanTask file = table.scan().where(column("k").equalTo(2500)).tasks().get(0);
    int at = file.read(store).iterator().next().positions()[0];
    StagedChange removal = pinned.stagedChange().adding(staged).removing(file, at);
    StagedChange reading = removal.reading(table.id(), column("k").equalTo(9500), SCHEMA);
    table.update().where(column("k").equalTo(2501)).set("v", 3).run(); // another row
    table.alter().add(Field.of("more", Types.INTEGER)).run();
    try (Append append = table.append()) {
      append.add(9500, 1L, "read", 4);
      append.commit();
    }
    assertThatThrownBy(() -> lake.apply(reading))
        .isInstanceOfSatisfying(
            ConflictException.class,
            e -> assertThat(e.kind()).isEqualTo(ConflictException.Kind.READ_WRITE));
    lake.apply(removal);
    assertThat(table.scan().where(column("k").equalTo(2500)).count()).isZero();
    assertThat(table.scan().where(column("word").equalTo("staged")).count()).isEqualTo(10);
    assertThat(lake.apply(removal).isCommitted()).isFalse(); // it was applied before
    assertThat(table.scan().where(column("word").equalTo("staged")).count()).isEqualTo(10);
    StagedChange same = pinned.stagedChange().removing(file, at);
    assertThatThrownBy(() -> lake.apply(same))
        .isInstanceOfSatisfying(
            ConflictException.class,
            e -> assertThat(e.kind()).isEqualTo(ConflictException.Kind.WRITE_WRITE));
  }

  @Test
  void keysAreTestedAsEverywhere() {
    LakeView pinned = lake.now();
    StagedChange there = pinned.stagedChange().adding(stage(pinned, 2990, 3010));
    assertThatThrownBy(() -> lake.apply(there)).isInstanceOf(KeyExistsException.class);
    StagedRows one = stage(pinned, 4000, 4005);
    StagedChange twice = pinned.stagedChange().adding(one).adding(stage(pinned, 4004, 4006));
    assertThatThrownBy(() -> lake.apply(twice)).isInstanceOf(KeyExistsException.class);
    StagedChange late = pinned.stagedChange().adding(one);
    try (Append append = table.append()) {
      append.add(4002, 0L, "first");
      append.commit();
    }
    assertThatThrownBy(() -> lake.apply(late)).isInstanceOf(ConflictException.class);
    assertThat(table.scan().where(column("k").between(3000, 4010)).count()).isEqualTo(1);
  }

  @Test
  void stagedRowsAreCommittedOnce() {
    table.alter().dropKey().run();
    LakeView pinned = lake.now();
    StagedRows staged = stage(pinned, 4000, 4003);
    StagedChange stagedChange = pinned.stagedChange().adding(staged);
    assertThatThrownBy(() -> lake.apply(stagedChange.adding(staged)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("given twice");
    WriteResult applied = lake.apply(stagedChange);
    assertThat(applied.commit().orElseThrow().commitId()).isEqualTo(stagedChange.id());
    assertThat(stagedChange.id().version()).isEqualTo(8);
    assertThat(stagedChange.id().variant()).isEqualTo(2);
    ScanTask file = table.scan().tasks().get(0);
    for (int i = 0; i < 3; i++) {
      assertThat(lake.apply(StagedChange.of(stagedChange.toBytes())))
          .isEqualTo(WriteResult.NOTHING);
      StagedChange another = stagedChange.removing(file, 500 + i);
      if (i == 0) { // as long as the staged file is there
        assertThatThrownBy(() -> lake.apply(another))
            .isInstanceOf(InvalidInputException.class)
            .hasMessageContaining("were already added by its version");
      }
      table.update().where(column("k").equalTo(1)).set("v", i).run();
      table.delete().where(column("k").equalTo(4000 + i)).style(ChangeStyle.REWRITE).run();
      assertThat(lake.findCommit(stagedChange.id(), 100)).isEqualTo(applied.commit());
    }
    table.rewrite().run();
    assertThat(lake.apply(stagedChange).isCommitted()).isFalse();
    assertThat(table.scan().where(column("k").greaterThan(3999)).count()).isZero();
    assertThatThrownBy(() -> lake.apply(lake.now().stagedChange().adding(staged)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("stage them for the same entry");
  }

  @Test
  void itIsKnownAgainWhateverBecameOfWhatItRead() {
    Table seen = lake.createTable("t.a", SCHEMA);
    LakeView pinned = lake.now();
    StagedChange stagedChange =
        pinned
            .stagedChange()
            .reading(seen.id(), column("k").lessThan(100), SCHEMA)
            .adding(stage(pinned, 4000, 4001));
    lake.apply(stagedChange);
    try (Append append = seen.append()) {
      append.add(5, 5L, "what it would have read");
      append.commit();
    }
    assertThat(lake.apply(stagedChange)).isEqualTo(WriteResult.NOTHING);
    table.alter().rename("v", "w").run();
    lake.dropTable("t.a");
    assertThat(lake.apply(stagedChange)).isEqualTo(WriteResult.NOTHING);
    lake.dropTable("t.x");
    assertThat(lake.apply(stagedChange)).isEqualTo(WriteResult.NOTHING);
    lake.bringBackTable("t.x");
    assertThat(table.scan().where(column("k").equalTo(4000)).count()).isEqualTo(1);
  }

  @Test
  void ofTwoWhoApplyOneDeltaOneDoes() throws Exception {
    ExecutorService two = Executors.newFixedThreadPool(2);
    try (Lake other = Lake.open(store)) {
      for (int round = 0; round < 40; round++) {
        LakeView pinned = lake.now();
        StagedChange stagedChange =
            pinned.stagedChange().adding(stage(pinned, 5000 + round, 5001 + round));
        if (round % 2 == 0) {
          ScanTask file = table.scan().where(column("k").equalTo(2000 + round)).tasks().get(0);
          stagedChange =
              stagedChange.removing(file, file.read(store).iterator().next().positions()[0]);
        }
        byte[] bytes = stagedChange.toBytes();
        CyclicBarrier together = new CyclicBarrier(2);
        List<Future<WriteResult>> both = new ArrayList<>();
        for (Lake each : List.of(lake, other)) {
          both.add(
              two.submit(
                  () -> {
                    together.await();
                    return each.apply(StagedChange.of(bytes));
                  }));
        }
        WriteResult first = both.get(0).get();
        WriteResult second = both.get(1).get();
        assertThat(first.isCommitted() || second.isCommitted()).isTrue();
        if (first.isCommitted() && second.isCommitted()) {
          // In the same microsecond both offer the same bytes: one entry, and it is both's.
          assertThat(first.committed()).isEqualTo(second.committed());
        }
      }
    } finally {
      two.shutdown();
    }
    assertThat(table.scan().where(column("k").between(5000, 5040)).count()).isEqualTo(40);
    assertThat(table.scan().where(column("k").between(2000, 2039)).count()).isEqualTo(20);
  }

  @Test
  void whatIsNotOfThisLakeIsRefused() {
    LakeView pinned = lake.now();
    StagedRows staged = stage(pinned, 4000, 4001);
    assertThatThrownBy(
            () ->
                lake.apply(
                    StagedChange.on(pinned.stagedChange().entry(), "00".repeat(32)).adding(staged)))
        .isInstanceOf(WrongLakeException.class);
    assertThatThrownBy(() -> lake.apply(StagedChange.on(999, "00".repeat(32))))
        .hasMessageContaining("has no entry 999");
    LakeView older = lake.atEntry(2);
    assertThatThrownBy(() -> lake.apply(older.stagedChange().adding(staged)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Nothing was changed");
    ScanTask file = table.scan().tasks().get(0);
    for (int none : new int[] {999_999, -1}) {
      assertThatThrownBy(() -> pinned.stagedChange().removing(file, none))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("none at position " + none);
    }
    assertThat(lake.apply(pinned.stagedChange().removing(file)).isCommitted()).isFalse();
    ScanTask found = table.scan().where(column("k").equalTo(2000)).tasks().get(0);
    int gone = found.read(store).iterator().next().positions()[0];
    table.delete().where(column("k").equalTo(2000)).style(ChangeStyle.MASK).run();
    assertThatThrownBy(() -> lake.apply(lake.now().stagedChange().removing(found, gone)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Rows to be removed from table");
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      assertThatThrownBy(() -> writer.add("no number", 1L, "x"))
          .isInstanceOf(InvalidInputException.class);
    }
    assertThat(lake.apply(pinned.stagedChange()).isCommitted()).isFalse();
  }

  @Test
  void bytesThatAreSomethingElseAreRefused() {
    LakeView pinned = lake.now();
    ScanTask scan = table.scan().tasks().get(0);
    byte[] staged = stage(pinned, 4000, 4001).toBytes();
    byte[] stagedChange =
        pinned.stagedChange().adding(StagedRows.of(staged)).removing(scan, 3).toBytes();
    List<byte[]> forms =
        List.of(scan.toBytes(), pinned.writeTask("t.x").toBytes(), staged, stagedChange);
    List<Consumer<byte[]>> readers =
        List.of(ScanTask::of, WriteTask::of, StagedRows::of, StagedChange::of);
    Random random = new Random(3);
    int refused = 0;
    for (int i = 0; i < 400; i++) {
      byte[] whole = forms.get(i % 4);
      byte[] cut = Arrays.copyOf(whole, random.nextInt(whole.length));
      byte[] wrong = whole.clone();
      wrong[random.nextInt(whole.length)] = (byte) random.nextInt(256);
      for (int kind = 0; kind < 4; kind++) {
        assertThat(isRefused(readers.get(kind), cut)).as("cut to %d bytes", cut.length).isTrue();
        boolean isRefused = isRefused(readers.get(kind), wrong);
        refused += isRefused ? 1 : 0;
        assertThat(isRefused || kind == i % 4).as("form %d read as %d", i % 4, kind).isTrue();
      }
    }
    assertThat(refused).as("wrong bytes that were refused").isBetween(1250, 1600);
    assertThatThrownBy(() -> ScanTask.of(staged)).isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> StagedChange.of("{".getBytes(StandardCharsets.UTF_8)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("These bytes are not a complete staged change");
  }

  private static boolean isRefused(Consumer<byte[]> reader, byte[] bytes) {
    try {
      reader.accept(bytes);
      return false;
    } catch (YsteronException e) {
      assertThat(e.getMessage()).isNotBlank();
      return true;
    }
  }
}
