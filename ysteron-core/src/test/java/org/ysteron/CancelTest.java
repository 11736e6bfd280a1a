package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.IntFunction;
import java.util.stream.Stream;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.CancelledException;
import org.ysteron.expr.Condition;
import org.ysteron.history.Changes;
import org.ysteron.intake.OutsideFile;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/**
 * Each long call is cancelled the first time it asks, the second time, and so on, until it ends.
 */
class CancelTest {
  private static final int FILES = 5;
  private static final int ROWS = 300;
  private static final String NAME = "tide.readings";

  @TempDir Path directory;

  private final MemoryStore store = new MemoryStore();

  /** Cancels once it was asked so many times. */
  private static final class Canceller implements ProgressMonitor {
    private final AtomicLong left;
    private final Path temporary;
    private final Set<String> steps = new TreeSet<>();
    private volatile boolean hadFiles;

    Canceller(long asks, Path temporary) {
      this.left = new AtomicLong(asks);
      this.temporary = temporary;
    }

    @Override
    public synchronized void progress(Progress progress) {
      steps.add(progress.step());
      progress.total().ifPresent(all -> assertThat(progress.done()).isLessThanOrEqualTo(all));
    }

    @Override
    public boolean isCancelled() {
      hadFiles |= temporary.toFile().list().length > 0;
      return left.decrementAndGet() < 0;
    }
  }

  /** Calls that make one commit at most, then those that make several. */
  enum Call {
    LOAD,
    SORTED_LOAD,
    GROWING_LOAD,
    MERGE,
    UPDATE,
    DELETE,
    REWRITE,
    ALTER,
    SCAN,
    COUNT,
    MEASURE,
    DUPLICATES,
    CHECK,
    CHANGES,
    ROW_HISTORY,
    TRANSACTION,
    COMPACT,
    EXPIRE,
    SWEEP,
    UPKEEP,
    ERASE;

    boolean makesOneCommit() {
      return compareTo(COMPACT) < 0;
    }
  }

  private LakeHandle watched;
  private Canceller canceller;

  private void run(Call call) {
    switch (call) {
      case LOAD -> load(2000, false);
      case SORTED_LOAD -> load(80_000, true);
      case GROWING_LOAD -> growingLoad();
      case MERGE -> merge();
      case UPDATE -> table().update().where(later(900)).set("level", 1.0).run();
      case DELETE -> table().delete().where(later(900)).run();
      case REWRITE -> table().rewrite().run();
      case ALTER -> table().alter().notNull("level").run();
      case SCAN -> scan();
      case COUNT -> table().scan().where(later(10)).count();
      case MEASURE -> table().measure();
      case DUPLICATES -> duplicates();
      case CHECK -> watched.check().depth(CheckDepth.ROWS).run();
      case CHANGES -> {
        Changes changes = table().between(0, table().now().version());
        assertThat(changes.summary().counts().total()).isPositive();
        changes.withUnchanged().batches().forEach(batch -> {});
      }
      case ROW_HISTORY -> table().rowHistory(later(900));
      case TRANSACTION -> transaction();
      case COMPACT -> table().compact().run();
      case EXPIRE -> watched.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      case SWEEP -> watched.sweep().now().full().withEntries().run();
      case UPKEEP -> watched.upkeep().run();
      case ERASE -> table().erase(later(1400)).run(report -> {});
    }
  }

  private static Condition later(long id) {
    return Condition.column("id").atLeast(id);
  }

  private Table table() {
    return watched.table(NAME);
  }

  private void load(int rows, boolean sorted) {
    Path file = directory.resolve(sorted ? "sorted.csv" : "plain.csv");
    write(file, "id,level\n", rows, i -> (10_000 + i) + "," + i % 97);
    try (Append append = watched.table(sorted ? "tide.sorted" : NAME).append()) {
      OutsideFile.of(file).read(table().schema(), append, canceller);
      append.commit();
    }
  }

  private void growingLoad() {
    Path file = directory.resolve("growing.jsonl");
    write(file, "", 2000, i -> "{\"id\":%d,\"colour\":\"%s\"}".formatted(20_000 + i, "x" + i));
    try (Append append = table().append(rules -> rules.with(org.ysteron.option.Drift.GROW))) {
      OutsideFile.of(file).readNamed(append, canceller);
      append.commit();
    }
  }

  private static void write(Path file, String head, int rows, IntFunction<String> row) {
    StringBuilder text = new StringBuilder(head);
    for (int i = 0; i < rows; i++) {
      text.append(row.apply(i)).append('\n');
    }
    try {
      Files.writeString(file, text);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private void merge() {
    table()
        .upsert(
            MergeSource.values(
                List.of("id", "level"),
                target -> {
                  for (long i = 0; i < 80_000; i++) {
                    target.add(new Object[] {700 + i, 3.0});
                  }
                }))
        .on("id")
        .run();
  }

  private void scan() {
    try (Stream<Row> rows = table().scan().rows().stream()) {
      rows.forEach(row -> {});
    }
  }

  private void duplicates() {
    watched.table("tide.keyed").now().duplicates(10);
  }

  private void transaction() {
    try (Transaction work = watched.begin()) {
      work.table(NAME).delete().where(later(1300)).run();
      work.table("tide.keyed").add(77_777L, 1.0);
      work.commit();
    }
  }

  private Lake open() {
    return Lake.open(
        store,
        LakeOptions.DEFAULTS
            .threads(2)
            .memory(1 << 20)
            .temporaryDirectory(directory.resolve("temporary")));
  }

  private void make() throws IOException {
    Files.createDirectories(directory.resolve("temporary"));
    Schema schema =
        Schema.of(Field.of("id", Types.BIGINT).notNull(), Field.of("level", Types.DOUBLE));
    try (Lake lake = Lake.create(store)) {
      TableSettings small = TableSettings.DEFAULTS.with("file.bytes", 20_000);
      Table plain = lake.createTable(NAME, schema, small);
      lake.createTable("tide.sorted", schema, small, LayoutPlan.none().sortedBy("level"));
      Table keyed = lake.createTable("tide.keyed", schema.withKey("id"), small);
      for (int f = 0; f < FILES; f++) {
        for (Table table : List.of(plain, keyed)) {
          try (Append append = table.append()) {
            for (long i = 0; i < ROWS; i++) {
              append.add((long) f * ROWS + i, (double) i);
            }
            append.commit();
          }
        }
      }
      plain.delete().where(Condition.column("id").lessThan(20L)).run();
    }
  }

  private static List<String> objects(ObjectStore store, String directory) {
    List<String> names = new ArrayList<>();
    for (ObjectStore.Child child : store.list(directory, "", Integer.MAX_VALUE)) {
      String name = directory + "/" + child.segment();
      if (child.directory()) {
        names.addAll(objects(store, name));
      } else {
        names.add(name);
      }
    }
    return names;
  }

  private static Set<Thread> threads() {
    Set<Thread> threads = new HashSet<>(Thread.getAllStackTraces().keySet());
    threads.removeIf(thread -> !thread.getName().startsWith("ysteron-"));
    return threads;
  }

  private static void awaitEnd(Set<Thread> others) throws InterruptedException {
    Set<Thread> own = threads();
    own.removeAll(others);
    for (Thread thread : own) {
      thread.join(10_000);
      assertThat(thread.isAlive()).as(thread.getName()).isFalse();
    }
  }

  private record State(
      Map<String, List<TableVersion>> versions, List<String> data, List<String> pages) {}

  private State state(Lake lake) {
    Map<String, List<TableVersion>> versions = new TreeMap<>();
    lake.tables()
        .forEach(table -> versions.put(table.name(), lake.table(table.name()).history(1000)));
    return new State(versions, objects(store, "data"), objects(store, "pages"));
  }

  @ParameterizedTest
  @EnumSource(Call.class)
  void nothingIsHalfDone(Call call) throws IOException, InterruptedException {
    make();
    Set<String> steps = new TreeSet<>();
    int cancelled = 0;
    boolean ended = false;
    boolean hadFiles = false;
    for (long asks = 0; !ended; asks += 1 + asks / 5) {
      Set<Thread> others = threads();
      canceller = new Canceller(asks, directory.resolve("temporary"));
      try (Lake lake = open()) {
        State before = state(lake);
        long rows = lake.table(NAME).scan().count();
        watched = lake.watchedBy(canceller);
        try {
          run(call);
          ended = true;
        } catch (CancelledException e) {
          cancelled++;
          if (call.makesOneCommit()) {
            assertThat(e).hasMessage("The call was cancelled. Nothing was changed.");
            assertThat(state(lake)).isEqualTo(before);
          } else if (call != Call.ERASE) {
            assertThat(lake.table(NAME).scan().count()).isEqualTo(rows);
          } else if (lake.health().erasures().isEmpty()) {
            assertThat(lake.table(NAME).scan().count()).isIn(rows, 1380L);
          } else {
            assertThat(lake.table(NAME).scan().count()).isEqualTo(1380);
          }
        }
        assertThat(store.unfinished("")).isEmpty();
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      }
      awaitEnd(others);
      steps.addAll(canceller.steps);
      hadFiles |= canceller.hadFiles;
      assertThat(directory.resolve("temporary")).isEmptyDirectory();
    }
    assertThat(cancelled).isPositive();
    assertThat(steps).isNotEmpty();
    assertThat(hadFiles).isEqualTo(call == Call.MERGE || call == Call.SORTED_LOAD);
  }
}
