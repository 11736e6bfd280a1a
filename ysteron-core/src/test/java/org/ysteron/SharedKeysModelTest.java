package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.option.TableSettings;
import org.ysteron.report.DuplicateRow;
import org.ysteron.store.MemoryStore;

/** A table in which rows may share a key at times, against a list of rows. */
class SharedKeysModelTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)).withKey("k");
  private static final int KEYS = 15;

  /** The values of each key. */
  private final Map<Integer, List<Long>> model = new TreeMap<>();

  private String test;
  private Random random;

  @Property(tries = 50)
  @SuppressWarnings("try") // the limits are there while they are open
  void rowsThatShareAKeyAreWhatTheirModelIs(@ForAll long seed) {
    random = new Random(seed);
    model.clear();
    test = "declared";
    try (SmallLimits limits = new SmallLimits(seed);
        Lake lake = Lake.create(new MemoryStore())) {
      TableSettings settings =
          TableSettings.DEFAULTS
              .with(TableSettings.FILE_BYTES, 1024)
              .with(TableSettings.KEY_TEST, test);
      Table table = lake.createTable("t.x", SCHEMA, settings);
      for (int step = 0; step < 14; step++) {
        step(table);
        Map<Integer, List<Long>> rows = new TreeMap<>();
        table.scan().rows().forEach(row -> put(rows, (Integer) row.get(0), (Long) row.get(1)));
        assertThat(rows).as("after step %d", step).isEqualTo(model);
        Set<Object> shared = new HashSet<>();
        duplicates(table).forEach(one -> shared.add(one.key().get(0)));
        assertThat(shared).isEqualTo(sharing());
      }
    }
  }

  private static void put(Map<Integer, List<Long>> rows, int k, long v) {
    List<Long> values = rows.computeIfAbsent(k, key -> new ArrayList<>());
    values.add(v);
    values.sort(Long::compare);
  }

  private static List<DuplicateRow> duplicates(Table table) {
    return table.now().duplicates(1000);
  }

  private Set<Integer> sharing() {
    Set<Integer> sharing = new HashSet<>(model.keySet());
    sharing.removeIf(k -> model.get(k).size() < 2);
    return sharing;
  }

  private void step(Table table) {
    switch (random.nextInt(9)) {
      case 8 -> SimulatedUpkeep.any(random, table).run();
      case 0 -> strengthen(table);
      case 1 -> {
        int low = random.nextInt(KEYS);
        table.delete().where(column("k").between(low, low + 2)).run();
        model.keySet().removeIf(k -> k >= low && k <= low + 2);
      }
      case 2 -> table.rewrite().among(file -> file.numbers().number() % 2 == 0).run();
      case 3 -> upsert(table);
      case 4, 5 -> oneOfSome(table);
      default -> append(table);
    }
  }

  /** A test that is not true of the rows is refused. */
  private void strengthen(Table table) {
    String other = List.of("declared", "within_writes", "exact").get(random.nextInt(3));
    Runnable change = () -> table.alter().set(TableSettings.KEY_TEST, other).run();
    boolean asksMore = other.equals("exact") && !test.equals("exact");
    if (asksMore && !sharing().isEmpty()) {
      assertThatThrownBy(change::run).isInstanceOf(InvalidInputException.class);
    } else {
      change.run();
      test = other;
    }
  }

  private void append(Table table) {
    List<Integer> keys = random.ints(4, 0, KEYS).boxed().toList();
    Set<Integer> apart = new HashSet<>(keys);
    boolean within = apart.size() < keys.size() && !test.equals("declared");
    boolean there = test.equals("exact") && apart.stream().anyMatch(model::containsKey);
    long first = random.nextInt(1000);
    Runnable write =
        () -> {
          try (Append append = table.append()) {
            for (int i = 0; i < keys.size(); i++) {
              append.add(keys.get(i), first + i);
            }
            append.commit();
          }
        };
    if (within || there) {
      assertThatThrownBy(write::run).isInstanceOf(KeyExistsException.class);
      return;
    }
    write.run();
    for (int i = 0; i < keys.size(); i++) {
      put(model, keys.get(i), first + i);
    }
  }

  private void upsert(Table table) {
    int k = random.nextInt(KEYS);
    long v = random.nextInt(1000);
    Row row = Row.of(SCHEMA.struct(), k, v);
    table.upsert(MergeSource.rows(List.of(row))).run();
    if (model.containsKey(k)) {
      model.get(k).replaceAll(before -> v);
    } else {
      put(model, k, v);
    }
  }

  /** One of the rows that share a key is changed, or deleted, by its serial. */
  private void oneOfSome(Table table) {
    List<DuplicateRow> duplicates = duplicates(table);
    if (duplicates.isEmpty()) {
      return;
    }
    DuplicateRow one = duplicates.get(random.nextInt(duplicates.size()));
    int k = (Integer) one.key().get(0);
    boolean deletes = random.nextBoolean();
    if (deletes) {
      table.delete().whereSerial(Set.of(one.serial())).run();
    } else {
      table.update().whereSerial(Set.of(one.serial())).set("v", 5000L).run();
    }
    Map<Integer, List<Long>> left = new TreeMap<>();
    table
        .scan()
        .where(column("k").equalTo(k))
        .rows()
        .forEach(row -> put(left, k, (Long) row.get(1)));
    List<List<Long>> possible = new ArrayList<>();
    for (Long value : model.get(k)) {
      List<Long> after = new ArrayList<>(model.get(k));
      after.remove(value);
      if (!deletes) {
        after.add(5000L);
      }
      after.sort(Long::compare);
      possible.add(after);
    }
    assertThat(possible).contains(left.get(k));
    model.put(k, left.get(k));
  }
}
