package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.ChangeStep;
import org.ysteron.history.ChangeSummary;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.Changes;
import org.ysteron.history.ReaderPosition;
import org.ysteron.history.RowOrigin;
import org.ysteron.history.RowStep;
import org.ysteron.internal.compare.VersionChanges;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.report.Position;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.ScanTask;

/**
 * Changes between random versions of random histories. What they say, done to the rows of one
 * version, gives the rows of the other: serials and values. The rows themselves are read by scans.
 */
class ChangesModelTest {
  private static final int HISTORIES = Integer.getInteger("ysteron.changes", 60);
  private static final long FIRST = Long.getLong("ysteron.first", 0);
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.INTEGER),
              Field.of("d", Types.DOUBLE),
              Field.of("t", Types.text()))
          .withKey("k");

  private Random random;
  private MemoryStore store;
  private Lake lake;
  private Table table;
  private final List<String> did = new ArrayList<>();

  @Test
  void changesMakeOneVersionOutOfTheOther() {
    for (long seed = FIRST; seed < FIRST + HISTORIES; seed++) {
      ChangesModelTest model = new ChangesModelTest();
      try {
        model.run(seed);
      } catch (RuntimeException | AssertionError e) {
        throw new AssertionError("seed %d, %s: %s".formatted(seed, model.did, e.getMessage()), e);
      }
    }
  }

  private void run(long seed) {
    random = new Random(seed * 7919 + 5);
    store = new MemoryStore();
    lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1 + random.nextInt(2)));
    try (Lake used = lake) {
      table = used.createTable("t.t", SCHEMA);
      for (int step = 5 + random.nextInt(25); step > 0; step--) {
        step();
        look();
      }
      List<Long> kept =
          new ArrayList<>(table.history(1000).stream().map(version -> version.version()).toList());
      for (int pair = 0; pair < 8; pair++) {
        long from = kept.get(random.nextInt(kept.size()));
        long to = kept.get(random.nextInt(kept.size()));
        long named = random.nextInt(3) > 0 ? Math.max(from, to) : pick(kept);
        did.add("%d to %d with columns of %d".formatted(from, to, named));
        check(from, to, named);
      }
      checkOrigins(table.at(pick(kept)));
      checkHistory(kept, random.nextInt(90));
    }
  }

  /**
   * By serial, between which two versions a row was first seen; and which version was seen last.
   */
  private final Map<Long, long[]> firstSeen = new TreeMap<>();

  private long lastSeen = -1;

  private void look() {
    TableView now = table.now();
    rows(now, Condition.all(), List.of("k"))
        .keySet()
        .forEach(serial -> firstSeen.putIfAbsent(serial, new long[] {lastSeen, now.version()}));
    lastSeen = now.version();
  }

  /** Rows come from the versions in which they were first seen. */
  private void checkOrigins(TableView view) {
    did.add("origins of " + view.version());
    Set<Long> kept = new HashSet<>(versions());
    Map<Long, List<Object>> rows = rows(view, Condition.all(), List.of("k"));
    try (Results<RowOrigin> origins = view.origins(Condition.all(), "k")) {
      for (RowOrigin origin : origins) {
        assertThat(rows.remove(origin.serial())).isEqualTo(values(origin.row()));
        long[] seen = firstSeen.get(origin.serial());
        long until = origin.inserted().version().version();
        assertThat(until).isGreaterThan(seen[0]);
        if (origin.inserted().isExact()) {
          assertThat(until).isLessThanOrEqualTo(seen[1]);
        } else {
          long after = origin.inserted().after().map(TableVersion::version).orElse(-1L);
          assertThat(after).isLessThan(seen[1]);
          for (long gone = after + 1; gone < until; gone++) {
            assertThat(kept).doesNotContain(gone);
          }
        }
        long changed = origin.changed().version().version();
        assertThat(changed).isBetween(until, view.version());
        if (origin.changed().isExact()) {
          List<String> columns = List.of("k", "v");
          TableView then = table.at(changed).bySchemaOf(view.bySchemaOf(table.at(changed)));
          assertThat(rows(then, Condition.all(), columns).get(origin.serial()))
              .isEqualTo(
                  rows(view.bySchemaOf(then), Condition.all(), columns).get(origin.serial()));
        }
      }
    }
    assertThat(rows).isEmpty();
  }

  /** What happened to a key is what the rows of it are in each version. */
  private void checkHistory(List<Long> kept, int k) {
    did.add("history of " + k);
    Condition key = column("k").equalTo(k);
    List<String> columns = List.of("k", "v");
    List<String> expected = new ArrayList<>();
    Map<Long, List<Object>> before = Map.of();
    for (long version : kept.stream().sorted().toList()) {
      Map<Long, List<Object>> now = rows(table.at(version), Condition.all(), columns);
      for (long serial : union(before.keySet(), now.keySet())) {
        List<Object> old = before.get(serial);
        List<Object> next = now.get(serial);
        boolean was = old != null && old.get(0).equals(k);
        boolean is = next != null && next.get(0).equals(k);
        if ((was || is) && !sameValues(old, next)) {
          boolean isFirst = version == kept.stream().min(Long::compare).orElseThrow();
          expected.add(line(version, serial, isFirst ? null : old, next, was, is));
        }
      }
      before = now;
    }
    List<String> told = new ArrayList<>();
    for (RowStep step : table.rowHistory(key, "k", "v")) {
      ChangedRow change = step.change();
      told.add(
          line(
              step.at().version().version(),
              change.serial(),
              change.before() == null ? null : values(change.before()),
              change.after() == null ? null : values(change.after()),
              step.wasSelected(),
              step.isSelected()));
    }
    assertThat(told).containsExactlyInAnyOrderElementsOf(expected);
  }

  /** The type of a column may be wider by now. */
  private static boolean sameValues(List<Object> one, List<Object> other) {
    return String.valueOf(one).equals(String.valueOf(other));
  }

  private static Set<Long> union(Set<Long> one, Set<Long> other) {
    Set<Long> all = new HashSet<>(one);
    all.addAll(other);
    return all;
  }

  private static String line(
      long version, long serial, List<Object> old, List<Object> now, boolean was, boolean is) {
    return "version %d, row %d: %s to %s, %s to %s".formatted(version, serial, old, now, was, is);
  }

  private long pick(List<Long> of) {
    return of.get(random.nextInt(of.size()));
  }

  private void step() {
    int kind = random.nextInt(24);
    did.add(String.valueOf(kind));
    try {
      step(kind);
    } catch (NotFoundException | InvalidInputException e) {
      did.set(did.size() - 1, "(" + kind + ")"); // it was not possible just then
    }
  }

  private Condition some() {
    int low = random.nextInt(60);
    return column("k").between(low, low + random.nextInt(30));
  }

  private ChangeStyle style() {
    return List.of(ChangeStyle.MASK, ChangeStyle.REWRITE, ChangeStyle.BY_SHARE)
        .get(random.nextInt(3));
  }

  private void step(int kind) {
    switch (kind) {
      case 0, 1, 2 -> insert();
      case 3 -> table.update().where(some()).set("v", column("v").plus(1)).run();
      case 4 -> table.update().where(some()).style(style()).setToColumn("v", "v").run();
      case 5 -> table.update().where(some()).style(style()).set("d", number()).run();
      case 6 -> table.delete().where(some()).style(style()).run();
      case 7 -> upsert();
      case 8 -> table.compact().full().run();
      case 9 -> table.rewrite().where(some()).run();
      case 10 ->
          table.alter().add(Field.of("x", Types.INTEGER).withDefault(Computed.later(7))).run();
      case 11 -> table.alter().drop("x").run();
      case 12 -> table.alter().widen("v", Types.BIGINT).run();
      case 13 -> table.alter().rename("t", "text" + random.nextInt(3)).run();
      case 14 -> table.alter().layout(LayoutPlan.none().every("k", 1 + random.nextInt(40))).run();
      case 15 -> table.rewind().to(pick(versions())).run();
      case 16 -> {
        lake.expire().keeping(Retention.EVERYTHING.andNewest(2 + random.nextInt(8))).run();
        lake.sweep().now().run();
      }
      case 19, 20 -> follow();
      case 23 -> table.bookmark("b" + did.size(), pick(versions()));
      case 21, 22 -> // a key that another row has is refused
          table
              .update()
              .where(column("k").equalTo(random.nextInt(90)))
              .set("k", random.nextInt(90))
              .run();
      case 17 -> table.erase(column("k").between(random.nextInt(60), 62)).run();
      default ->
          lake.runInTransaction(
              Isolation.SERIALIZABLE,
              transaction -> {
                TransactionTable same = transaction.table("t.t");
                same.update().where(some()).set("v", random.nextInt(5)).run();
                same.delete().where(some()).style(style()).run();
                same.update().where(some()).setBy("v", row -> plus(row.get("v"))).run();
                if (random.nextBoolean()) {
                  same.rewrite().run();
                }
              });
    }
  }

  /**
   * A reader with a position sees what differs from what it saw last, unless it is told it missed
   * it.
   */
  private void follow() {
    if (lake.positions().isEmpty()) {
      Duration limit = random.nextBoolean() ? Duration.ofNanos(1000) : Duration.ofDays(1);
      lake.setPosition("reader", Map.of("t.t", table.now().version()), limit);
      return;
    }
    Position.OfTable read = lake.position("reader").tables().get(0);
    assertThat(read.isMissed()).isEqualTo(!versions().contains(read.version()));
    if (read.isMissed()) {
      lake.setPosition("reader", "t.t");
      return;
    }
    TableView last = table.at(read.version());
    TableView now = table.now().bySchemaOf(last.bySchemaOf(table.now()));
    TableView then = last.bySchemaOf(now);
    lake.runInTransaction(
        Isolation.SERIALIZABLE,
        transaction -> {
          List<String> columns = List.of("k", "v");
          ReaderPosition position = transaction.position("reader");
          ChangeCounts unused =
              compare(
                  position.changes("t.t").columns(columns),
                  rows(then, Condition.all(), columns),
                  rows(now, Condition.all(), columns));
          position.move();
        });
    if (then.version() != now.version()) {
      assertThat(lake.position("reader").tables().get(0).version()).isEqualTo(now.version());
    }
  }

  private List<Long> versions() {
    return table.history(1000).stream().map(version -> version.version()).toList();
  }

  private static Object plus(Object value) {
    return value == null ? (Object) 1 : (Object) (((Number) value).intValue() + 1);
  }

  private Double number() {
    double[] some = {0.0, -0.0, Double.NaN, 1.5, 2.5};
    return random.nextInt(5) == 0 ? null : (Double) some[random.nextInt(some.length)];
  }

  private void insert() {
    Set<Object> known = new HashSet<>();
    table.scan().columns("k").rows().forEach(row -> known.add(row.get(0)));
    try (Append append = table.append()) {
      for (int i = random.nextInt(30); i > 0; i--) {
        int k = random.nextInt(90);
        if (known.add(k)) {
          append.add(row(k));
        }
      }
      append.commit();
    }
  }

  private Row row(int k) {
    List<Field> fields = new ArrayList<>(table.schema().columns());
    Object[] values = new Object[fields.size()];
    values[0] = k;
    values[1] = random.nextInt(4) == 0 ? null : random.nextInt(5);
    values[2] = number();
    values[3] = "row " + random.nextInt(3);
    for (int i = 4; i < values.length; i++) {
      values[i] = random.nextInt(3);
    }
    return Row.of(table.schema().struct(), values);
  }

  private void upsert() {
    Map<Integer, Row> rows = new TreeMap<>();
    for (int i = random.nextInt(20); i > 0; i--) {
      int k = random.nextInt(90);
      rows.put(k, row(k));
    }
    table.upsert(MergeSource.rows(List.copyOf(rows.values()))).style(style()).run();
  }

  /** The rows of a version by serial, as a scan task tells them. */
  private Map<Long, List<Object>> rows(TableView view, Condition condition, List<String> columns) {
    Map<Long, List<Object>> rows = new TreeMap<>();
    Scan scan = view.scan().where(condition);
    for (ScanTask task : scan.columns(columns).tasks()) {
      try (Results<LocatedBatch> batches = task.read(store)) {
        for (LocatedBatch batch : batches) {
          for (int i = 0; i < batch.serials().length; i++) {
            assertThat(rows.put(batch.serials()[i], values(batch.rows().row(i)))).isNull();
          }
        }
      }
    }
    return rows;
  }

  private static List<Object> values(Row row) {
    Object[] values = new Object[row.fields().size()];
    Arrays.setAll(values, row::get);
    return Arrays.asList(values);
  }

  private void check(long from, long to, long named) {
    TableView named3 = table.at(named);
    TableView later = table.at(to).bySchemaOf(table.at(from).bySchemaOf(named3));
    TableView earlier = table.at(from).bySchemaOf(later);
    boolean isFiltered = random.nextInt(3) == 0;
    Condition condition =
        isFiltered ? column("v").between(1, 3).or(column("k").between(20, 50)) : Condition.all();
    VersionChanges all =
        VersionChanges.between(lake.core, table.at(from).page(), table.at(to).page());
    // With little memory rows are compared in many ranges of serials.
    Changes changes = random.nextBoolean() ? all : all.inMemory(random.nextInt(4000));
    changes = changes.withColumnsOf(named).where(condition);
    changes = random.nextInt(3) == 0 ? changes.columns("v", "k") : changes;
    List<String> columns = changes.schema().columns().stream().map(Field::name).toList();
    Map<Long, List<Object>> before = rows(earlier, condition, columns);
    Map<Long, List<Object>> after = rows(later, condition, columns);
    ChangeCounts counted = compare(changes, before, after);
    assertThat(changes.countExactly()).isEqualTo(counted);
    ChangeCounts quick = changes.count();
    assertThat(quick.inserted()).isEqualTo(counted.inserted());
    assertThat(quick.deleted()).isEqualTo(counted.deleted());
    assertThat(quick.updated()).isEqualTo(counted.updated() + counted.same());
    try (Results<Batch> flat = changes.flat()) {
      assertThat(flat.stream().mapToLong(Batch::size).sum())
          .isEqualTo(counted.total() + counted.updated());
    }
    checkSummary(changes.summary(), counted, changes.schema(), before, after);
    checkSteps(changes.keptSteps(), columns, before, after);
    checkWhole(changes.withUnchanged(), before, after);
    checkPairs(
        changes.pairedByKey(),
        counted,
        before,
        after,
        rows(earlier, condition, List.of("k")),
        rows(later, condition, List.of("k")));
  }

  /** With rows that do not differ, both versions are there as a whole. */
  private static void checkWhole(
      Changes changes, Map<Long, List<Object>> before, Map<Long, List<Object>> after) {
    Set<Long> told = new HashSet<>();
    try (Results<ChangedRow> rows = changes.rows()) {
      for (ChangedRow row : rows) {
        assertThat(told.add(row.serial())).isTrue();
        List<Object> old = row.before() == null ? null : values(row.before());
        List<Object> now = row.after() == null ? null : values(row.after());
        assertThat(old).isEqualTo(before.get(row.serial()));
        assertThat(now).isEqualTo(after.get(row.serial()));
        assertThat(row.kind() == ChangeKind.UNCHANGED).isEqualTo(Objects.equals(old, now));
      }
    }
    assertThat(told).isEqualTo(union(before.keySet(), after.keySet()));
  }

  /** Rows that were deleted and inserted with the same key are updated ones, if asked for. */
  private static void checkPairs(
      Changes changes,
      ChangeCounts bySerial,
      Map<Long, List<Object>> before,
      Map<Long, List<Object>> after,
      Map<Long, List<Object>> keysBefore,
      Map<Long, List<Object>> keysAfter) {
    Map<Object, Long> gone = new HashMap<>();
    keysBefore.forEach((serial, k) -> gone.put(k, serial));
    gone.values().removeAll(keysAfter.keySet());
    long pairs = 0;
    long same = 0;
    for (long serial : keysAfter.keySet()) {
      Long old = keysBefore.containsKey(serial) ? null : gone.get(keysAfter.get(serial));
      if (old != null) {
        pairs++;
        same += before.get(old).equals(after.get(serial)) ? 1 : 0;
      }
    }
    ChangeCounts expected =
        new ChangeCounts(
            bySerial.inserted() - pairs,
            bySerial.deleted() - pairs,
            bySerial.updated() + pairs - same,
            bySerial.same() + same,
            true);
    assertThat(changes.countExactly()).isEqualTo(expected);
    assertThat(changes.summary().counts()).isEqualTo(expected);
    assertThat(changes.count().updated()).isEqualTo(expected.updated() + expected.same());
    try (Results<ChangedRow> rows = changes.rows()) {
      for (ChangedRow row : rows) {
        if (row.kind() == ChangeKind.UPDATED) {
          long old =
              before.containsKey(row.serial())
                  ? row.serial()
                  : gone.get(keysAfter.get(row.serial()));
          assertThat(values(row.before())).isEqualTo(before.get(old));
          assertThat(values(row.after())).isEqualTo(after.get(row.serial()));
        }
      }
    }
  }

  /** What the changes say, held against both states. */
  private static ChangeCounts compare(
      Changes changes, Map<Long, List<Object>> before, Map<Long, List<Object>> after) {
    Map<Long, List<Object>> made = new TreeMap<>(before);
    ChangeCounts counts = ChangeCounts.NOTHING;
    ChangeKind last = ChangeKind.DELETED;
    List<ChangeKind> order = List.of(ChangeKind.DELETED, ChangeKind.UPDATED, ChangeKind.INSERTED);
    try (Results<ChangedRow> rows = changes.rows()) {
      for (ChangedRow row : rows) {
        assertThat(order.indexOf(row.kind())).isGreaterThanOrEqualTo(order.indexOf(last));
        last = row.kind();
        assertThat(before.containsKey(row.serial())).isEqualTo(row.kind() != ChangeKind.INSERTED);
        assertThat(after.containsKey(row.serial())).isEqualTo(row.kind() != ChangeKind.DELETED);
        List<Object> old = row.before() == null ? null : values(row.before());
        List<Object> now = row.after() == null ? null : values(row.after());
        assertThat(made.remove(row.serial())).isEqualTo(old);
        if (now != null) {
          assertThat(now).isNotEqualTo(old);
          made.put(row.serial(), now);
        }
        counts = counts.plus(row.kind(), 1);
      }
    }
    assertThat(made).isEqualTo(after);
    return new ChangeCounts(
        counts.inserted(), counts.deleted(), counts.updated(), changes.countExactly().same(), true);
  }

  private static void checkSummary(
      ChangeSummary summary,
      ChangeCounts counts,
      Schema schema,
      Map<Long, List<Object>> before,
      Map<Long, List<Object>> after) {
    assertThat(summary.counts()).isEqualTo(counts);
    Map<String, Long> differing = new TreeMap<>();
    before.forEach(
        (serial, old) -> {
          for (int c = 0; after.containsKey(serial) && c < old.size(); c++) {
            if (!Objects.equals(old.get(c), after.get(serial).get(c))) {
              differing.merge(schema.columns().get(c).name(), 1L, Long::sum);
            }
          }
        });
    Map<String, Long> told = new TreeMap<>();
    summary.columns().forEach(column -> told.put(column.column(), column.differing()));
    assertThat(told).isEqualTo(differing);
  }

  /** The steps one after the other lead from one state to the other. */
  private static void checkSteps(
      List<ChangeStep> steps,
      List<String> columns,
      Map<Long, List<Object>> before,
      Map<Long, List<Object>> after) {
    boolean isComparable =
        steps.stream()
            .map(step -> step.changes().schema().columns().stream().map(Field::name).toList())
            .allMatch(columns::equals);
    if (!isComparable) {
      return; // a column was dropped in between, and a rewind brought it back
    }
    Map<Long, List<Object>> made = new TreeMap<>(wide(before));
    for (ChangeStep step : steps) {
      try (Results<ChangedRow> rows = step.changes().rows()) {
        for (ChangedRow row : rows) {
          if (row.before() != null) {
            assertThat(made.remove(row.serial())).isEqualTo(wide(values(row.before())));
          }
          if (row.after() != null) {
            assertThat(made.put(row.serial(), wide(values(row.after())))).isNull();
          }
        }
      }
    }
    assertThat(made).isEqualTo(wide(after));
  }

  private static Map<Long, List<Object>> wide(Map<Long, List<Object>> rows) {
    Map<Long, List<Object>> wide = new TreeMap<>();
    rows.forEach((serial, values) -> wide.put(serial, wide(values)));
    return wide;
  }

  /** A version between the two may have wider columns than both. */
  private static List<Object> wide(List<Object> values) {
    List<Object> wide = new ArrayList<>(values);
    wide.replaceAll(value -> value instanceof Integer number ? (Object) number.longValue() : value);
    return wide;
  }
}
