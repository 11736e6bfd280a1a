package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.maintenance.Sweep;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.MendReport;
import org.ysteron.report.TableFile;
import org.ysteron.report.TableInfo;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;

/**
 * Random operations on a lake, against a plain model of what its tables were at each version and
 * what the lake was after each commit.
 */
class ModelTest {
  private static final List<String> NAMES = List.of("t.a", "t.b", "t.c");
  private static final Schema SCHEMA =
      Schema.of(Field.of("n", Types.INTEGER), Field.of("t", Types.text()));

  /** A table as the model has it: the rows of each version. */
  private static final class ModelTable {
    final List<List<Integer>> versions = new ArrayList<>();
    final List<Instant> times = new ArrayList<>();
    final Set<Integer> gone = new TreeSet<>();
    final Set<Integer> held = new TreeSet<>();
    Table handle;

    /** All but so many of the newest that are there, and those that are held, go. */
    void expire(int newest) {
      int kept = 0;
      for (int v = versions.size() - 1; v >= 0; v--) {
        if (!gone.contains(v) && ++kept > newest && !held.contains(v)) {
          gone.add(v);
        }
      }
    }

    List<Integer> rows() {
      return versions.get(versions.size() - 1);
    }

    void add(List<Integer> rows, Instant time) {
      versions.add(rows);
      times.add(time);
    }
  }

  /** A table at a version. */
  private record At(ModelTable table, int version) {
    static Map<String, At> now(Map<String, ModelTable> tables) {
      Map<String, At> now = new TreeMap<>();
      tables.forEach((name, table) -> now.put(name, new At(table, table.versions.size() - 1)));
      return now;
    }

    /** How many rows each has, but for what was erased since. */
    static Map<String, Integer> sizes(Map<String, At> tables) {
      Map<String, Integer> sizes = new TreeMap<>();
      tables.forEach((name, at) -> sizes.put(name, at.table.versions.get(at.version).size()));
      return sizes;
    }
  }

  /** Goes on by a random time with every look. */
  private static final class RandomClock extends Clock {
    private final Random random;
    private Instant now = Instant.parse("2026-03-01T00:00:00Z");

    RandomClock(Random random) {
      this.random = random;
    }

    @Override
    public ZoneId getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(ZoneId zone) {
      return this;
    }

    @Override
    public Instant instant() {
      now = now.plus(Duration.ofMillis(random.nextInt(3)));
      return now;
    }
  }

  @Property(tries = 25)
  void aLakeIsWhatItsModelIs(@ForAll long seed, @ForAll @IntRange(min = 5, max = 60) int steps) {
    Random random = new Random(seed);
    MemoryStore store = new MemoryStore();
    Lake lake =
        Lake.create(
            store,
            LakeOptions.DEFAULTS.clock(new RandomClock(random)).threads(1 + random.nextInt(2)));
    Map<String, ModelTable> live = new TreeMap<>();
    Map<String, ModelTable> dropped = new HashMap<>();
    List<Map<String, At>> states = new ArrayList<>();
    List<Instant> times = new ArrayList<>();
    Map<String, Map<String, At>> marks = new TreeMap<>();
    for (int step = 0; step < steps; step++) {
      String name = NAMES.get(random.nextInt(NAMES.size()));
      if (random.nextInt(12) == 0) {
        keep(random, store, lake, live, dropped, marks);
      } else {
        step(random, lake, name, live, dropped);
      }
      Instant time = lake.now().commit().time();
      if (times.isEmpty() || !time.equals(times.get(times.size() - 1))) {
        states.add(At.now(live));
        times.add(time);
      }
    }
    try (Lake read = random.nextBoolean() ? lake : Lake.open(store)) {
      live.forEach((name, model) -> check(read, name, model, random));
      boolean isAllThere =
          Stream.concat(live.values().stream(), dropped.values().stream())
              .allMatch(model -> model.gone.isEmpty());
      for (int i = 0; i < states.size(); i++) {
        checkState(read, times.get(i), At.sizes(states.get(i)), isAllThere);
      }
      marks.forEach(
          (name, state) ->
              assertThat(sizes(read.atBookmark(name))).as(name).isEqualTo(At.sizes(state)));
      assertThat(read.tables())
          .extracting(TableInfo::name)
          .containsExactlyElementsOf(live.keySet());
      assertThat(read.commits(1000))
          .extracting(c -> c.time())
          .isSortedAccordingTo(java.util.Comparator.reverseOrder());
    }
  }

  private static Map<String, Integer> sizes(LakeView view) {
    Map<String, Integer> found = new TreeMap<>();
    for (TableInfo listing : view.tables()) {
      found.put(listing.name(), (int) listing.totals().rows());
    }
    return found;
  }

  /** A state is what it was, but for tables of which the version of then is gone. */
  private static void checkState(
      Lake lake, Instant time, Map<String, Integer> state, boolean isAllThere) {
    try {
      Map<String, Integer> found = sizes(lake.at(time));
      if (isAllThere) {
        assertThat(found).isEqualTo(state);
      }
      assertThat(state).containsAllEntriesOf(found);
    } catch (ExpiredException e) {
      assertThat(e).hasMessageContaining("has expired");
    }
  }

  /** Names the lake, lets versions go, sweeps. */
  private static void keep(
      Random random,
      MemoryStore store,
      Lake lake,
      Map<String, ModelTable> live,
      Map<String, ModelTable> dropped,
      Map<String, Map<String, At>> marks) {
    if (random.nextInt(3) == 0) {
      String name = "m" + marks.size();
      lake.bookmark(name);
      assertThat(sizes(lake.now())).isEqualTo(At.sizes(At.now(live)));
      marks.put(name, At.now(live));
      live.values().forEach(table -> table.held.add(table.versions.size() - 1));
    }
    int newest = 1 + random.nextInt(5);
    lake.expire().keeping(Retention.EVERYTHING.andNewest(newest)).run();
    live.values().forEach(table -> table.expire(newest));
    dropped.values().forEach(table -> table.expire(newest));
    Sweep sweep = random.nextBoolean() ? lake.sweep().now() : lake.sweep();
    (random.nextBoolean() ? sweep.withEntries() : sweep).run();
    if (random.nextInt(3) == 0) {
      live.values().stream().limit(1).forEach(table -> erase(random, table));
    }
    if (random.nextInt(3) == 0) {
      live.values().stream().limit(1).forEach(table -> lose(random, store, lake, table));
    }
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    assertThat(lake.mend().run().commits()).isEmpty();
  }

  /** A data file is lost, taken out of the newest version, and found again. */
  private static void lose(Random random, MemoryStore store, Lake lake, ModelTable table) {
    List<TableFile> files = table.handle.now().files();
    if (files.isEmpty()) {
      return;
    }
    String name = files.get(random.nextInt(files.size())).name();
    byte[] content = store.read(name);
    store.delete(name);
    MendReport report = lake.mend().run();
    store.createIfAbsent(name, content);
    assertThat(report.lost()).hasSize(1).allMatch(lost -> lost.object().equals(name));
    List<Integer> left = new ArrayList<>();
    table.handle.scan().rows().forEach(row -> left.add((Integer) row.get("n")));
    assertThat(left).hasSize(table.rows().size() - (int) report.rows());
    List<Integer> lost = new ArrayList<>(table.rows());
    left.forEach(lost::remove); // one of each
    assertThat(lost).hasSize((int) report.rows());
    table.add(left, report.commits().get(0).commit().time());
  }

  /** Takes some rows out of all versions of a table. */
  private static void erase(Random random, ModelTable table) {
    int low = random.nextInt(1000);
    try {
      table.handle.erase(Condition.column("n").between(low, low + 100)).includingBookmarks().run();
    } catch (NotFoundException e) {
      assertThat(table.rows()).noneMatch(n -> n >= low && n <= low + 100);
    }
    table.versions.replaceAll(rows -> rows.stream().filter(n -> n < low || n > low + 100).toList());
  }

  private static void step(
      Random random,
      Lake lake,
      String name,
      Map<String, ModelTable> live,
      Map<String, ModelTable> dropped) {
    ModelTable table = live.get(name);
    if (table == null) {
      if (dropped.containsKey(name) && random.nextBoolean()) {
        ModelTable back = dropped.remove(name);
        lake.bringBackTable(name);
        back.add(back.rows(), lake.now().commit().time());
        live.put(name, back);
      } else if (!dropped.containsKey(name)) {
        ModelTable made = new ModelTable();
        made.handle =
            lake.createTable(
                name,
                SCHEMA,
                TableSettings.DEFAULTS.with(TableSettings.RANGED_COLUMNS, random.nextInt(3)));
        made.add(List.of(), lake.now().commit().time());
        live.put(name, made);
      } else {
        assertThatThrownBy(() -> lake.table(name)).isInstanceOf(NotFoundException.class);
      }
      return;
    }
    switch (random.nextInt(9)) {
      case 0 -> {
        lake.dropTable(name);
        table.add(table.rows(), lake.now().commit().time());
        dropped.put(name, live.remove(name));
      }
      case 1 -> {
        String other = NAMES.get(random.nextInt(NAMES.size()));
        if (live.containsKey(other)) {
          assertThatThrownBy(() -> lake.renameTable(name, other))
              .isInstanceOf(InvalidInputException.class);
        } else if (!dropped.containsKey(other)) {
          lake.renameTable(name, other);
          table.add(table.rows(), lake.now().commit().time());
          live.put(other, live.remove(name));
        }
      }
      case 2 -> {
        try (Append append = table.handle.append()) {
          append.add(1, "never committed");
        }
      }
      default -> append(random, table);
    }
  }

  private static void append(Random random, ModelTable table) {
    List<Integer> rows = new ArrayList<>(table.rows());
    try (Append append = table.handle.append()) {
      for (int i = random.nextInt(20); i > 0; i--) {
        int value = random.nextInt(1000);
        append.add(value, "row " + value);
        rows.add(value);
      }
      table.add(rows, append.commit().commit().orElseThrow().time());
    }
  }

  private static void check(Lake lake, String name, ModelTable model, Random random) {
    Table table = lake.table(name);
    assertThat(table.now().version()).isEqualTo(model.versions.size() - 1L);
    List<TableVersion> history = table.history(1000);
    assertThat(history).hasSize(model.versions.size() - model.gone.size());
    Map<Long, TableVersion> told = new TreeMap<>();
    history.forEach(version -> told.put(version.version(), version));
    for (int v = 0; v < model.versions.size(); v++) {
      if (model.gone.contains(v)) {
        int version = v;
        assertThatThrownBy(() -> table.at(version)).isInstanceOf(ExpiredException.class);
        assertThatThrownBy(() -> table.at(model.times.get(version)))
            .isInstanceOf(ExpiredException.class);
        continue;
      }
      List<Integer> expected = model.versions.get(v);
      TableView view = random.nextBoolean() ? table.at(v) : table.at(model.times.get(v));
      assertThat(view.version()).isEqualTo(v);
      assertThat(view.scan().rows().stream().map(row -> (Integer) row.get("n")))
          .containsExactlyElementsOf(expected);
      assertThat(told.get((long) v).totals().rows()).isEqualTo(expected.size());
    }
    int bound = random.nextInt(1000);
    List<Integer> below = model.rows().stream().filter(n -> n < bound).toList();
    Condition condition = Condition.column("n").lessThan(bound);
    assertThat(
            table.scan().where(condition).columns("n").rows().stream()
                .map(row -> (Integer) row.get(0)))
        .containsExactlyElementsOf(below);
    assertThat(table.scan().where(condition).count()).isEqualTo(below.size());
    assertThat(table.scan().where(condition).limit(3).rows().stream())
        .hasSize(Math.min(3, below.size()));
    assertThatThrownBy(() -> table.at(model.versions.size())).isInstanceOf(NotFoundException.class);
  }
}
