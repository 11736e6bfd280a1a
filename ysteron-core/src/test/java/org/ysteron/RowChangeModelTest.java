package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.BiConsumer;
import java.util.function.Consumer;
import java.util.function.IntPredicate;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.maintenance.Sweep;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;

/** Random deletes, updates and merges, in transactions and alone, against a plain map. */
class RowChangeModelTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.BIGINT),
              Field.of("t", Types.text(10)))
          .withKey("k");
  private static final int KEYS = 60;
  private static final String TAKEN = "taken";

  /** The value of a row: {@code v} and {@code t}. */
  private record Held(Long v, String t) {}

  private final Map<Integer, Held> model = new TreeMap<>();
  private MemoryStore store;
  private final List<Map<Integer, Held>> versions = new ArrayList<>();

  /** Versions without the check that is there during an append. */
  private final List<Integer> plain = new ArrayList<>();

  /** What another table holds all the time. */
  private final Map<Integer, Held> other = new TreeMap<>();

  private final List<StagedChange> applied = new ArrayList<>();
  private final Set<Long> gone = new TreeSet<>();
  private final Map<String, Long> named = new TreeMap<>();
  private Random random;

  private static Map<Integer, Held> rows(Scan scan) {
    Map<Integer, Held> rows = new TreeMap<>();
    for (Row row : scan.rows()) {
      Held before =
          rows.put((Integer) row.get(0), new Held((Long) row.get(1), (String) row.get(2)));
      assertThat(before).as("row %s twice", row).isNull();
      if (row.fields().size() > 3 && row.get(3) != null) {
        assertThat(((Number) row.get(3)).intValue()).as("%s", row).isEqualTo(row.get(0));
      }
    }
    return rows;
  }

  @Property(tries = 60)
  @SuppressWarnings("try") // the limits are there while they are open
  void aTableIsWhatItsModelIs(@ForAll long seed) {
    random = new Random(seed);
    List.of(model, named).forEach(Map::clear);
    store = new MemoryStore();
    List.of(versions, applied, plain, gone).forEach(Collection::clear);
    plain.add(0);
    try (SmallLimits limits = new SmallLimits(seed);
        Lake lake = Lake.create(store)) {
      TableSettings properties =
          TableSettings.DEFAULTS
              .with(TableSettings.FILE_BYTES, 1024)
              .with(TableSettings.RANGED_COLUMNS, random.nextInt(3));
      Table table = lake.createTable("t.x", SCHEMA, properties);
      versions.add(Map.of());
      fill(lake.createTable("t.y", SCHEMA, properties));
      for (int step = 0; step < 12; step++) {
        if (random.nextInt(8) == 0) {
          SimulatedUpkeep.any(random, table).run();
          measure(table);
          long before = table.now().version();
          if (!gone.contains(0L)) { // to which a dry run may go back
            SimulatedUpkeep.dryRun(random, table);
          }
          assertThat(table.now().version()).isEqualTo(before);
        } else if (random.nextInt(8) == 0) {
          keep(lake, table);
        } else if (random.nextInt(4) == 0) {
          try (Transaction work = lake.begin()) {
            TransactionTable inside = work.table("t.x");
            for (int i = 0; i < 3; i++) {
              step(
                  new Target(
                      false,
                      Optional.empty(),
                      inside::scan,
                      () -> work.table("t.y").scan(),
                      inside::delete,
                      inside::update,
                      inside::merge,
                      inside::rewrite,
                      inside::alter,
                      inside::rewind,
                      (rows, refused) ->
                          rows.forEach(row -> offer(row, by(inside::addRow), refused))));
              assertThat(rows(inside.scan())).isEqualTo(model);
            }
            work.commit();
          }
        } else {
          step(
              new Target(
                  true,
                  Optional.of(lake),
                  table::scan,
                  () -> lake.table("t.y").scan(),
                  table::delete,
                  table::update,
                  table::merge,
                  table::rewrite,
                  table::alter,
                  table::rewind,
                  (rows, refused) -> append(table, rows, refused)));
        }
        assertThat(rows(table.scan())).as("after step %d", step).isEqualTo(model);
        assertThat(table.scan().count()).isEqualTo(model.size());
        Map<Integer, Held> before = versions.get(versions.size() - 1);
        for (long v = versions.size(); v <= table.now().version(); v++) {
          // An append's check comes before it.
          if (table.at(v).checks().isEmpty()) {
            plain.add((int) v);
          }
          boolean altered = table.at(v).record().operation().equals("alter");
          versions.add(altered && v < table.now().version() ? before : new TreeMap<>(model));
        }
      }
      int low = random.nextInt(KEYS);
      Condition some = column("k").between(low, low + 10).and(column("v").greaterThan(200));
      Map<Integer, Held> expected = new TreeMap<>(model);
      expected.keySet().removeIf(k -> k < low || k > low + 10);
      expected.values().removeIf(held -> held.v() == null || held.v() <= 200);
      assertThat(rows(table.scan().where(some))).isEqualTo(expected);
      assertThat(table.scan().where(some).count()).isEqualTo(expected.size());
    }
    try (Lake lake = Lake.open(store)) {
      checkVersions(lake.table("t.x"));
    }
  }

  /** Each version is what it was, or has expired, as it should. */
  private void checkVersions(Table table) {
    for (long v = 0; v < versions.size(); v++) {
      long version = v;
      if (gone.contains(v)) {
        assertThatThrownBy(() -> table.at(version))
            .isInstanceOf(ExpiredException.class)
            .hasMessageMatching(
                "(?s)Version %d of table t\\.x expired (on|between) .*".formatted(v));
      } else {
        assertThat(rows(table.at(v).scan())).as("version %d", v).isEqualTo(versions.get((int) v));
      }
    }
  }

  /** Takes rows of some keys out of all versions. */
  private void erase(Table table) {
    int low = random.nextInt(KEYS);
    try {
      table.erase(column("k").between(low, low + 2)).includingBookmarks().run();
    } catch (NotFoundException e) {
      assertThat(model).doesNotContainKeys(low, low + 1, low + 2);
    } catch (InvalidInputException e) {
      assertThat(e).hasMessageContaining("contains values of the rows");
      return;
    }
    model.keySet().removeIf(k -> k >= low && k <= low + 2);
    versions.replaceAll(
        rows -> {
          Map<Integer, Held> left = new TreeMap<>(rows);
          left.keySet().removeIf(k -> k >= low && k <= low + 2);
          return left;
        });
  }

  /** Names a version, or lets some go and sweeps; the model says which are kept. */
  private void keep(Lake lake, Table table) {
    long newest = table.now().version();
    if (random.nextInt(3) == 0) {
      long version = newest - random.nextInt((int) Math.min(4, newest + 1));
      if (!gone.contains(version)) {
        table.bookmark("b" + named.size(), version);
        named.put("b" + named.size(), version);
      }
      return;
    }
    if (!named.isEmpty() && random.nextInt(4) == 0) {
      String name = named.keySet().iterator().next();
      lake.dropBookmark(name);
      named.remove(name);
    }
    int count = 1 + random.nextInt(4);
    table.expire().keeping(Retention.EVERYTHING.andNewest(count)).run();
    // The newest that are there, not the newest numbers.
    List<Long> there = new ArrayList<>();
    for (long v = newest; v >= 0; v--) {
      if (!gone.contains(v)) {
        there.add(v);
      }
    }
    for (int i = count; i < there.size(); i++) {
      if (!named.containsValue(there.get(i))) {
        gone.add(there.get(i));
      }
    }
    Sweep sweep = random.nextBoolean() ? lake.sweep().now() : lake.sweep();
    (random.nextBoolean() ? sweep.withEntries() : sweep).run();
    if (random.nextInt(2) == 0) {
      erase(table);
    }
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    assertThat(lake.mend().run().lost()).isEmpty();
    checkVersions(table);
  }

  /** Rows found by tasks go, others come that were staged, in one staged change. */
  private void fromElsewhere(Lake lake, int low, int high) {
    Condition condition = column("k").between(low, high);
    int odd = random.nextInt(3);
    if (odd < 2) { // rows of even keys get another value, or all of them go
      IntPredicate stays = k -> odd == 1 && k % 2 == 0;
      lake.apply(
          odd == 0
              ? StagedWork.removing(lake.now(), "t.x", condition)
              : StagedWork.updating(lake.now(), "t.x", store, condition, stays, "v", k -> 7L));
      model.keySet().removeIf(k -> k >= low && k <= high && !stays.test(k));
      model.replaceAll((k, row) -> k >= low && k <= high ? new Held(7L, row.t()) : row);
      return;
    }
    LakeView pinned = lake.now();
    StagedChange stagedChange = pinned.stagedChange();
    Set<Integer> there = Set.copyOf(model.keySet());
    for (ScanTask task : pinned.table("t.x").scan().where(condition).columns("k").tasks()) {
      for (ScanTask part : ScanTask.of(task.toBytes()).split(1 + random.nextInt(3))) {
        for (LocatedBatch batch : part.read(store)) {
          int[] removed =
              IntStream.range(0, batch.rows().size()).filter(i -> random.nextInt(3) == 0).toArray();
          for (int i = 0; i < removed.length; i++) {
            assertThat(model.remove(batch.rows().row(removed[i]).getInt("k"))).isNotNull();
            removed[i] = batch.positions()[removed[i]];
          }
          stagedChange = stagedChange.removing(part, removed);
        }
      }
    }
    try (RowWriter writer = pinned.writeTask("t.x").open(store, 0)) {
      for (int k = random.nextInt(5); k < KEYS; k += 1 + random.nextInt(KEYS)) {
        if (!there.contains(k)) {
          model.put(k, new Held((long) k, "far"));
          writer.addRow(Row.of(SCHEMA.struct(), k, (long) k, "far"));
        }
      }
      stagedChange = stagedChange.adding(StagedRows.of(writer.finish().toBytes()));
    }
    lake.apply(StagedChange.of(stagedChange.toBytes()));
    applied.add(stagedChange);
    try {
      assertThat(lake.apply(applied.get(random.nextInt(applied.size()))))
          .isEqualTo(WriteResult.NOTHING);
    } catch (ConflictException | ExpiredException e) {
      assertThat(gone).isNotEmpty(); // so long ago that nobody knows any more
    }
  }

  private void fill(Table table) {
    other.clear();
    try (Append append = table.append()) {
      for (int k = 0; k < KEYS; k += 1 + random.nextInt(6)) {
        other.put(k, new Held(random.nextBoolean() ? null : (Long) (long) k, "o" + k));
        append.add(k, other.get(k).v(), other.get(k).t());
      }
      append.commit();
    }
  }

  /** Rows by name, since the table may have more columns. */
  private static Consumer<Object[]> by(Consumer<Row> target) {
    return values -> target.accept(Row.of(SCHEMA.struct(), values));
  }

  private static void offer(Object[] row, Consumer<Object[]> to, Consumer<Object[]> refused) {
    try {
      to.accept(row);
    } catch (InvalidInputException e) {
      refused.accept(row);
    }
  }

  /** An append; in half of them another commit sets a check meanwhile, and some rows are late. */
  private void append(Table table, List<Object[]> rows, Consumer<Object[]> refused) {
    boolean late = random.nextBoolean();
    try (Append append = table.append(WriteRules::skippingRejected)) {
      rows.forEach(row -> offer(row, by(append::addRow), refused));
      if (late) {
        for (int k = -1; k >= -3; k--) {
          append.addRow(Row.of(SCHEMA.struct(), k, null, "late"));
        }
        table.alter().check("late", column("k").atLeast(0)).run();
      }
      append.commit();
      long taken = rows.stream().filter(row -> TAKEN.equals(row[2])).count();
      assertThat(append.skipped().rows()).isEqualTo(taken + (late ? 3 : 0));
    }
    if (late) {
      table.alter().dropCheck("late").run();
    }
  }

  /** A table, or a table in a transaction. */
  private record Target(
      boolean skipsRejected,
      Optional<Lake> lake,
      java.util.function.Supplier<Scan> scan,
      java.util.function.Supplier<Scan> other,
      java.util.function.Supplier<Delete> delete,
      java.util.function.Supplier<Update> update,
      java.util.function.Function<MergeSource, Merge> merge,
      java.util.function.Supplier<Rewrite> rewrite,
      java.util.function.Supplier<Alter> alter,
      java.util.function.Supplier<Rewind> rewind,
      BiConsumer<List<Object[]>, Consumer<Object[]>> add) {}

  /** So few values are told exactly, but for the quantiles in between. */
  private void measure(Table table) {
    TableStatistics.Column keys = table.measure("k", "v").columns().get(0);
    assertThat(keys.nulls()).isZero();
    assertThat(keys.distinct()).isEqualTo(model.size());
    assertThat(keys.quantiles()).hasSize(model.isEmpty() ? 0 : 17).isSorted();
    if (!model.isEmpty()) {
      assertThat(keys.quantiles().get(0)).isEqualTo(java.util.Collections.min(model.keySet()));
      assertThat(keys.quantiles().get(16)).isEqualTo(java.util.Collections.max(model.keySet()));
    }
    TableStatistics.Column values = table.now().statistics().orElseThrow().columns().get(1);
    long nulls = model.values().stream().filter(held -> held.v() == null).count();
    assertThat(values.nulls()).isEqualTo(nulls);
    assertThat(values.distinct())
        .isEqualTo(model.values().stream().map(Held::v).filter(v -> v != null).distinct().count());
  }

  private ChangeStyle style() {
    return List.of(ChangeStyle.values()).get(random.nextInt(3));
  }

  private void step(Target target) {
    int low = random.nextInt(KEYS);
    int high = low + random.nextInt(15);
    Condition condition = column("k").between(low, high);
    switch (random.nextInt(16)) {
      case 15 -> target.lake.ifPresent(lake -> fromElsewhere(lake, low, high));
      case 14 -> {
        List<Integer> there = plain.stream().filter(v -> !gone.contains((long) v)).toList();
        if (there.isEmpty()) {
          return;
        }
        int version = there.get(random.nextInt(there.size()));
        try {
          target.rewind.get().to(version).run();
          model.clear();
          model.putAll(versions.get(version));
        } catch (InvalidInputException e) {
          assertThat(e).hasMessageContaining("already changed in this transaction");
        }
      }
      case 6 -> {
        int salt = random.nextInt(1000);
        target.rewrite.get().among(file -> (file.numbers().number() + salt) % 3 > 0).run();
      }
      case 7 -> target.rewrite.get().where(condition).run();
      case 8 -> {
        LayoutPlan plan = SimulatedEvolution.plan(random);
        target.alter.get().layout(plan).run();
      }
      case 0 -> {
        List<Object[]> added = new ArrayList<>();
        Set<Integer> there = Set.copyOf(model.keySet());
        for (int i = 0; i < 5; i++) {
          int k = random.nextInt(KEYS);
          if (there.contains(k) && target.skipsRejected) {
            added.add(new Object[] {k, -1L, TAKEN});
          } else if (!model.containsKey(k)) {
            model.put(k, new Held((long) random.nextInt(500), "a" + i));
            added.add(new Object[] {k, model.get(k).v(), "a" + i});
          }
        }
        Object[] bad = {KEYS, "no number", "bad"};
        added.add(random.nextInt(added.size() + 1), bad);
        target.add.accept(added, row -> assertThat(row).isSameAs(bad));
      }
      case 9 -> {
        target
            .merge
            .apply(MergeSource.scan(target.scan.get().where(condition)))
            .matched(
                Merge.set(
                    Map.of(
                        "t",
                        Expression.literal("s").concat(Column.ofSource("k").cast(Types.text())))))
            .style(style())
            .run();
        model.replaceAll((k, held) -> k < low || k > high ? held : new Held(held.v(), "s" + k));
      }
      case 10 -> {
        target
            .merge
            .apply(MergeSource.scan(target.other.get().where(condition)))
            .matched(Merge.take("v"))
            .unmatched(Merge.takeAll())
            .style(style())
            .run();
        other.forEach(
            (k, held) -> {
              if (k >= low && k <= high) {
                String t = model.containsKey(k) ? model.get(k).t() : held.t();
                model.put(k, new Held(held.v(), t));
              }
            });
      }
      case 11 -> {
        refuse(() -> target.update.get().where(condition).set("v", "no number").run());
        refuse(() -> target.update.get().where(column("none").isNull()).set("v", 1L).run());
        refuse(() -> target.alter.get().check("none", column("none").isNull()).run());
        if (!model.isEmpty()) {
          refuse(() -> target.update.get().setBy("t", row -> "longer than ten").run());
          refuse(() -> target.alter.get().check("none", column("k").lessThan(0)).run());
        }
      }
      case 12, 13 -> growingUpsert(target);
      case 1 -> {
        ChangeReport report = target.delete.get().where(condition).style(style()).run().report();
        int before = model.size();
        model.keySet().removeIf(k -> k >= low && k <= high);
        assertThat(report.rowsDeleted()).isEqualTo(before - model.size());
      }
      case 2 -> {
        ChangeReport report =
            target
                .update
                .get()
                .where(condition)
                .set("v", column("v").plus(1))
                .set("t", "u")
                .style(style())
                .run()
                .report();
        int[] updated = {0};
        model.replaceAll(
            (k, held) -> {
              if (k < low || k > high) {
                return held;
              }
              updated[0]++;
              return new Held(held.v() == null ? null : held.v() + 1, "u");
            });
        assertThat(report.rowsUpdated()).isEqualTo(updated[0]);
      }
      case 3 -> {
        int parity = random.nextInt(2);
        target
            .delete
            .get()
            .whereRow(row -> (Integer) row.get("k") % 7 == parity)
            .style(style())
            .run();
        model.keySet().removeIf(k -> k % 7 == parity);
      }
      default -> merge(target, low, high);
    }
  }

  /** Rows of which some have more columns than the table, or wider values. */
  private void growingUpsert(Target target) {
    Map<Integer, Held> given = new LinkedHashMap<>();
    for (int i = random.nextInt(9); i >= 0; i--) {
      int k = random.nextInt(KEYS);
      given.put(k, new Held((long) random.nextInt(500), "g" + random.nextInt(9)));
    }
    int salt = random.nextInt(100);
    target
        .merge
        .apply(
            MergeSource.named(
                to ->
                    given.forEach(
                        (k, held) -> {
                          if ((k + salt) % 3 == 0) {
                            String[] texts = {k + ".5", "" + k, "" + held.v(), held.t()};
                            to.addText(new TextRow(List.of("g", "k", "v", "t"), texts));
                          } else {
                            Map<String, Object> row = new LinkedHashMap<>();
                            row.put("t", held.t());
                            row.put("v", held.v());
                            row.put("k", k);
                            if ((k + salt) % 3 == 1) {
                              row.put("g", k);
                              row.put("h", List.of());
                            }
                            to.addObject(row);
                          }
                        })))
        .rules(rules -> rules.with(Drift.GROW))
        .matched(Merge.takeAll())
        .unmatched(Merge.takeAll())
        .style(style())
        .run();
    model.putAll(given);
  }

  private static void refuse(Runnable statement) {
    assertThatThrownBy(statement::run)
        .isInstanceOfAny(InvalidInputException.class, NotFoundException.class);
  }

  private void merge(Target target, int low, int high) {
    Map<Integer, Object[]> source = new LinkedHashMap<>();
    for (int i = random.nextInt(12); i >= 0; i--) {
      int k = random.nextInt(KEYS);
      Long v = random.nextInt(5) == 0 ? null : (Long) (long) random.nextInt(500);
      source.put(k, new Object[] {k, v, "m" + random.nextInt(9)});
    }
    Merge merge =
        target.merge.apply(
            MergeSource.values(List.of("k", "v", "t"), to -> source.values().forEach(to::add)));
    boolean deletes = random.nextBoolean();
    boolean rest = random.nextInt(3) == 0;
    if (deletes) {
      merge = merge.matched((row, given) -> (Integer) row.get("k") % 3 == 0, Merge.delete());
    }
    merge = merge.matched(random.nextBoolean() ? Merge.takeAll() : Merge.take("v", "t"));
    merge = merge.unmatched(row -> row.get("v") != null, Merge.takeAll());
    if (rest) {
      merge =
          merge.notInSource(
              row -> (Integer) row.get("k") > low && (Integer) row.get("k") < high, Merge.delete());
    }
    if (random.nextBoolean()) {
      merge = merge.onlyDifferent();
    }
    merge.style(style()).run();
    if (rest) {
      model.keySet().removeIf(k -> k > low && k < high && !source.containsKey(k));
    }
    source.forEach(
        (k, values) -> {
          Held held = new Held((Long) values[1], (String) values[2]);
          if (model.containsKey(k)) {
            if (deletes && k % 3 == 0) {
              model.remove(k);
            } else {
              model.put(k, held);
            }
          } else if (values[1] != null) {
            model.put(k, held);
          }
        });
  }
}
