package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.expr.Column;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.MemoryStore;

/**
 * One transaction beside commits of others, with any files packed with any others by both. A model
 * of rows says which conflicts are justified, and there must be those and no others: what holds a
 * row says nothing. Of each version every row's serial and birth are read, which together fix its
 * values.
 */
class PackedModelTest {
  private static final int SEEDS = Integer.getInteger("ysteron.packed", 200);

  /** Keys from here on are appended by the transaction, and touched by nobody else. */
  private static final int OWN = 1000;

  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)).withKey("k");

  /** A form of a row: the row's number for life, the form's own, its value. */
  private record Form(long row, long form, long v) {}

  /** What was read: keys, or rows by a range of their keys and one of their values. */
  private record Seen(int low, int high, long least, long most, boolean gone, Set<Integer> keys) {
    boolean isKeys() {
      return !keys.isEmpty();
    }

    boolean matches(int k, Form form) {
      return isKeys()
          ? keys.contains(k)
          : k >= low && k <= high && form.v >= least && form.v <= most;
    }
  }

  private Random random;
  private String name;
  private Map<Integer, Form> state = new TreeMap<>();
  private final List<String> did = new ArrayList<>();
  private long lastNumber;
  private int lastKey;
  private int lastOwn;

  private static PackedModelTest of(long seed) {
    PackedModelTest model = new PackedModelTest();
    model.random = new Random(seed * 7919 + 1);
    model.name = "seed " + seed;
    return model;
  }

  @Test
  void conflictsAreThoseThatRowsJustify() {
    int conflicts = 0;
    long first = Long.getLong("ysteron.first", 0);
    for (long seed = first; seed < first + SEEDS; seed++) {
      PackedModelTest model = of(seed);
      try {
        conflicts += model.run() ? 1 : 0;
      } catch (RuntimeException | AssertionError e) {
        throw new AssertionError("seed %d, %s: %s".formatted(seed, model.did, e.getMessage()), e);
      }
    }
    assertThat(conflicts).isBetween(SEEDS / 10, SEEDS * 9 / 10);
  }

  /** A table, or a table in a transaction. */
  private record Target(
      Scan scan,
      Delete delete,
      Update update,
      MergeSourced merge,
      MergeSourced upsert,
      Rewrite rewrite,
      Optional<Compaction> compact,
      Adding add) {
    interface MergeSourced {
      Merge of(MergeSource source);
    }

    interface Adding {
      void rows(List<Object[]> rows);
    }
  }

  private static Target target(Table table) {
    return new Target(
        table.scan(),
        table.delete(),
        table.update(),
        table::merge,
        table::upsert,
        table.rewrite(),
        Optional.of(table.compact()),
        rows -> {
          try (Append append = table.append()) {
            rows.forEach(append::add);
            append.commit();
          }
        });
  }

  private static Target target(TransactionTable table) {
    return new Target(
        table.scan(),
        table.delete(),
        table.update(),
        table::merge,
        table::upsert,
        table.rewrite(),
        Optional.empty(),
        rows -> rows.forEach(table::add));
  }

  private boolean run() {
    MemoryStore store = new MemoryStore();
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("t.x", SCHEMA);
      for (int i = 1 + random.nextInt(4); i >= 0; i--) {
        step(target(table), state, null);
      }
      boolean conflict = transaction(lake, table);
      step(target(table), state, null);
      assertThat(rows(table.scan())).as(name).isEqualTo(values(state));
      checkVersions(store);
      return conflict;
    }
  }

  private boolean transaction(Lake lake, Table table) {
    Isolation isolation = random.nextInt(3) == 0 ? Isolation.SNAPSHOT : Isolation.SERIALIZABLE;
    Map<Integer, Form> start = new TreeMap<>(state);
    Map<Integer, Form> mine = new TreeMap<>(state);
    List<Seen> seen = new ArrayList<>();
    try (Transaction work = lake.begin(isolation)) {
      List<Boolean> order = new ArrayList<>();
      for (int i = random.nextInt(4); i >= 0; i--) {
        order.add(random.nextBoolean());
      }
      order.add(random.nextInt(order.size() + 1), true);
      for (boolean my : order) {
        if (my) {
          step(target(work.table("t.x")), mine, seen);
          if (random.nextInt(4) == 0) {
            assertThat(rows(work.table("t.x").scan())).as(name).isEqualTo(values(mine));
            seen.add(everything());
          } else {
            look(work.table("t.x"), mine, seen);
          }
        } else {
          step(target(table), state, null);
        }
      }
      return finish(table, work, isolation, start, mine, seen);
    }
  }

  private static Seen everything() {
    return new Seen(
        Integer.MIN_VALUE, Integer.MAX_VALUE, Long.MIN_VALUE, Long.MAX_VALUE, true, Set.of());
  }

  /** Reads some rows by key and value, and uses them as they are. */
  private void look(TransactionTable table, Map<Integer, Form> mine, List<Seen> seen) {
    int low = random.nextInt(lastKey + 1);
    Seen read = new Seen(low, low + random.nextInt(3), 0, random.nextInt(6), true, Set.of());
    Map<Integer, Form> expected = new TreeMap<>(mine);
    expected.entrySet().removeIf(row -> !read.matches(row.getKey(), row.getValue()));
    assertThat(
            rows(
                table
                    .scan()
                    .where(column("k").between(read.low, read.high))
                    .where(column("v").between(read.least, read.most))))
        .as(name)
        .isEqualTo(values(expected));
    seen.add(read);
  }

  private boolean finish(
      Table table,
      Transaction work,
      Isolation isolation,
      Map<Integer, Form> start,
      Map<Integer, Form> mine,
      List<Seen> seen) {
    Set<Integer> born = different(state, start);
    Set<Integer> gone = different(start, state);
    Set<Integer> changed = different(start, mine);
    Optional<String> expected = Optional.empty();
    for (Seen read : seen) {
      if (isolation == Isolation.SNAPSHOT && !read.isKeys()) {
        continue;
      }
      if (born.stream().anyMatch(k -> read.matches(k, state.get(k)))) {
        expected = Optional.of("a row was born that " + read + " would have found");
      }
      if (read.gone && gone.stream().anyMatch(k -> read.matches(k, start.get(k)))) {
        expected = Optional.of("a row has gone that " + read + " found");
      }
    }
    if (changed.stream().anyMatch(gone::contains)) {
      expected = Optional.of("both changed a row");
    }
    HistoryRecord before = table.now().page().record();
    boolean writes = !mine.equals(start);
    Optional<org.ysteron.report.Committed> committed;
    try {
      committed = work.commit().committed();
    } catch (ConflictException e) {
      assertThat(expected).as("%s: %s", name, e.getMessage()).isPresent();
      return true;
    }
    if (writes || committed.isPresent()) {
      assertThat(expected).as("%s was not met", name).isEmpty();
    }
    Map<Integer, Form> after = new TreeMap<>(state);
    changed.forEach(after::remove);
    different(mine, start).forEach(k -> after.put(k, mine.get(k)));
    HistoryRecord record = table.now().page().record();
    assertThat(record.lives().born() - before.lives().born())
        .as("%s: rows born", name)
        .isEqualTo(different(after, state).size());
    assertThat(record.lives().gone() - before.lives().gone())
        .as("%s: rows gone", name)
        .isEqualTo(different(state, after).size());
    if (committed.isPresent()) {
      assertThat(brought(table, record.version()))
          .as("%s: rows that the transaction brought", name)
          .isEqualTo(inserted(after, state));
    }
    state = after;
    return false;
  }

  /** The keys under which one state has a form of a row that another one has not. */
  private static Set<Integer> different(Map<Integer, Form> one, Map<Integer, Form> other) {
    Set<Integer> keys = new TreeSet<>();
    one.forEach(
        (k, form) -> {
          if (other.get(k) == null || other.get(k).form != form.form) {
            keys.add(k);
          }
        });
    return keys;
  }

  private static Set<Integer> inserted(Map<Integer, Form> after, Map<Integer, Form> before) {
    Set<Long> old = new HashSet<>();
    before.values().forEach(form -> old.add(form.row));
    Set<Integer> keys = new TreeSet<>();
    after.forEach(
        (k, form) -> {
          if (!old.contains(form.row)) {
            keys.add(k);
          }
        });
    return keys;
  }

  private static Set<Integer> brought(Table table, long version) {
    Set<Integer> keys = new TreeSet<>();
    for (Row row : table.follow(version - 1).poll().orElseThrow().rows()) {
      assertThat(keys.add((Integer) row.get("k"))).isTrue();
    }
    return keys;
  }

  private static Map<Integer, Long> values(Map<Integer, Form> state) {
    Map<Integer, Long> values = new TreeMap<>();
    state.forEach((k, form) -> values.put(k, form.v));
    return values;
  }

  private static Map<Integer, Long> rows(Scan scan) {
    Map<Integer, Long> rows = new TreeMap<>();
    for (Row row : scan.rows()) {
      assertThat(rows.put((Integer) row.get("k"), (Long) row.get("v")))
          .as("%s twice", row)
          .isNull();
    }
    return rows;
  }

  private Form fresh(long v) {
    return new Form(++lastNumber, ++lastNumber, v);
  }

  private Form next(Form form, long v) {
    return new Form(form.row, ++lastNumber, v);
  }

  /** One thing on a table and on its model; {@code seen} takes what it read, unless null. */
  private void step(Target target, Map<Integer, Form> rows, List<Seen> seen) {
    boolean own = seen != null && random.nextInt(4) == 0;
    int low = own ? OWN + random.nextInt(5) : random.nextInt(lastKey + 1);
    int high = low + random.nextInt(4);
    ChangeStyle style =
        List.of(ChangeStyle.MASK, ChangeStyle.REWRITE, ChangeStyle.BY_SHARE).get(random.nextInt(3));
    Seen range = new Seen(low, high, Long.MIN_VALUE, Long.MAX_VALUE, false, Set.of());
    int kind = random.nextInt(9);
    did.add((seen == null ? "" : "my ") + kind + " at " + low + " to " + high + " " + style);
    switch (kind) {
      case 0, 1 -> {
        List<Object[]> added = new ArrayList<>();
        for (int i = random.nextInt(5); i >= 0; i--) {
          int k = seen == null ? ++lastKey : OWN + ++lastOwn;
          rows.put(k, fresh(k % 5));
          added.add(new Object[] {k, (long) (k % 5)});
        }
        target.add.rows(added);
      }
      case 2 -> {
        target.delete.where(column("k").between(low, high)).style(style).run();
        rows.keySet().removeIf(k -> k >= low && k <= high);
        note(seen, range);
      }
      case 3 -> {
        target
            .update
            .where(column("k").between(low, high))
            .set("v", column("v").plus(1))
            .style(style)
            .run();
        rows.replaceAll((k, form) -> k < low || k > high ? form : next(form, form.v + 1));
        note(seen, range);
      }
      case 4 -> {
        List<Integer> keys = new ArrayList<>(new TreeSet<>(List.of(low, high, low + 1)));
        target
            .upsert
            .of(
                MergeSource.values(
                    List.of("k", "v"), to -> keys.forEach(k -> to.add(new Object[] {k, 9L}))))
            .style(style)
            .run();
        keys.forEach(k -> rows.put(k, rows.containsKey(k) ? next(rows.get(k), 9) : fresh(9)));
        lastKey = own ? lastKey : Math.max(lastKey, high + 1);
        lastOwn = own ? Math.max(lastOwn, high + 1 - OWN) : lastOwn;
        note(seen, new Seen(0, 0, 0, 0, false, new HashSet<>(keys)));
      }
      case 5 -> {
        target
            .merge
            .of(MergeSource.scan(target.scan.where(column("k").between(low, high))))
            .matched(column("v").isNotNull(), Merge.set(Map.of("v", Column.ofSource("v").plus(2))))
            .style(style)
            .run();
        rows.replaceAll((k, form) -> k < low || k > high ? form : next(form, form.v + 2));
        note(seen, new Seen(low, high, Long.MIN_VALUE, Long.MAX_VALUE, true, Set.of()));
      }
      default -> {
        int salt = random.nextInt(1000);
        int share = 1 + random.nextInt(3);
        Predicate<FileEntry> some = file -> (file.numbers().number() * 31 + salt) % 4 < share;
        if (target.compact.isPresent() && random.nextBoolean()) {
          CompactionReport report = target.compact.get().full().run();
          assertThat(report.skipped()).isEmpty();
        } else {
          target.rewrite.among(some).run();
        }
      }
    }
  }

  private static void note(List<Seen> seen, Seen read) {
    if (seen != null) {
      seen.add(read);
    }
  }

  /**
   * In no version two rows have one serial, and a serial and a birth always mean the same values.
   */
  private void checkVersions(MemoryStore store) {
    Map<List<Long>, List<Object>> meaning = new HashMap<>();
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)))) {
      TableHistory history =
          TableHistory.of(
              core.refresh().page().table("t.x", core.pages()).orElseThrow(), core.pages());
      for (long v = 0; v <= history.newest().version(); v++) {
        VersionPage page = history.pageOf(history.recordOf(v).orElseThrow());
        Set<Long> serials = new HashSet<>();
        var files = page.fileTree(core.pages()).cursor();
        while (files.next()) {
          checkFile(core, page, files.value(), serials, meaning);
        }
        assertThat(page.record().totals().rows()).isEqualTo(serials.size());
      }
    }
  }

  private void checkFile(
      LakeCore core,
      VersionPage page,
      FileEntry file,
      Set<Long> serials,
      Map<List<Long>, List<Object>> meaning) {
    Schema wanted = HiddenColumns.with(page.schema());
    try (FileScan scan = FileScan.all(core.reading(), page, file, wanted)) {
      Optional<Batch> batch = scan.next();
      while (batch.isPresent()) {
        for (int i = 0; i < batch.get().size(); i++) {
          long serial = file.serial(batch.get().vectors().get(2), i, scan.position(i));
          long birth = file.birth(batch.get().vectors().get(3), i);
          List<Object> values =
              List.of(batch.get().vectors().get(0).get(i), batch.get().vectors().get(1).get(i));
          assertThat(serials.add(serial)).as("%s: serial %d twice", name, serial).isTrue();
          assertThat(meaning.computeIfAbsent(List.of(serial, birth), pair -> values))
              .as("%s: serial %d born at %d", name, serial, birth)
              .isEqualTo(values);
          assertThat(birth)
              .isBetween(file.numbers().births().least(), file.numbers().births().greatest());
          assertThat(serial).isLessThan(page.record().nextSerial());
        }
        batch = scan.next();
      }
    }
  }
}
