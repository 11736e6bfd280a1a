package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.NavigableMap;
import java.util.Random;
import java.util.TreeMap;
import org.ysteron.data.Row;
import org.ysteron.error.KeyExistsException;
import org.ysteron.option.TableSettings;

/**
 * A table of a simulation whose test of keys is weaker at times, so that rows may share a key. Its
 * model has the values of each key, in order.
 */
final class SimulatedKeys {
  static final String TABLE = "t.w";
  private static final List<String> TESTS = List.of("declared", "within_writes", "exact");

  private SimulatedKeys() {}

  static String anyTest(Random random) {
    return TESTS.get(random.nextInt(TESTS.size()));
  }

  /** Sets another test, which is refused when it is not true. */
  static void round(SimulatedActors.Actor actor, Lake lake, Random random) {
    String test = anyTest(random);
    actor.tell("wants key.test %s of %s".formatted(test, TABLE));
    try {
      lake.table(TABLE).alter().set(TableSettings.KEY_TEST, test).run();
      actor.tell("has it");
    } catch (KeyExistsException e) {
      throw new AssertionError("no row is brought here", e);
    }
  }

  static SimulatedWork.Op random(Random random, int fresh) {
    int low = random.nextInt(SimulatedWork.KEYS);
    List<Integer> keys = random.ints(2, 0, SimulatedWork.KEYS).distinct().boxed().toList();
    return switch (random.nextInt(5)) {
      case 0 -> new Removal(low, low + random.nextInt(3));
      case 1 -> new Increase(low, low + random.nextInt(5));
      case 2 -> new Upsert(keys, fresh);
      default -> new Addition(keys, fresh);
    };
  }

  static NavigableMap<Integer, List<Long>> copy(NavigableMap<Integer, List<Long>> rows) {
    NavigableMap<Integer, List<Long>> copy = new TreeMap<>();
    rows.forEach((k, values) -> copy.put(k, new ArrayList<>(values)));
    return copy;
  }

  /** What is really there. */
  static NavigableMap<Integer, List<Long>> rows(TableView table) {
    NavigableMap<Integer, List<Long>> rows = new TreeMap<>();
    for (Row row : table.scan().rows()) {
      add(rows, (Integer) row.get("k"), (Long) row.get("v"));
    }
    return rows;
  }

  private static void add(NavigableMap<Integer, List<Long>> rows, int k, long v) {
    List<Long> values = rows.computeIfAbsent(k, key -> new ArrayList<>());
    values.add(v);
    Collections.sort(values);
  }

  private static void remove(NavigableMap<Integer, List<Long>> rows, int k, Long v) {
    assertThat(rows.getOrDefault(k, List.of())).as("row %d of %s", k, TABLE).contains(v);
    rows.get(k).remove(v);
    if (rows.get(k).isEmpty()) {
      rows.remove(k);
    }
  }

  /** What was changed on a state, on another. */
  static void carry(
      NavigableMap<Integer, List<Long>> before,
      NavigableMap<Integer, List<Long>> after,
      NavigableMap<Integer, List<Long>> state) {
    NavigableMap<Integer, List<Long>> gone = copy(before);
    NavigableMap<Integer, List<Long>> born = copy(after);
    before.forEach(
        (k, values) -> {
          for (Long v : values) {
            if (born.getOrDefault(k, List.of()).contains(v)) {
              remove(born, k, v);
              remove(gone, k, v);
            }
          }
        });
    gone.forEach((k, values) -> values.forEach(v -> remove(state, k, v)));
    born.forEach((k, values) -> values.forEach(v -> add(state, k, v)));
  }

  static void check(TableView table, NavigableMap<Integer, List<Long>> state) {
    assertThat(rows(table)).as("%s at version %d", TABLE, table.version()).isEqualTo(state);
    long duplicates = state.values().stream().filter(values -> values.size() > 1).count();
    if (table.settings().word(TableSettings.KEY_TEST).equals("exact")) {
      assertThat(duplicates)
          .as("keys that are there twice at version %d", table.version())
          .isZero();
    }
    assertThat(table.duplicates(1000).stream().map(one -> one.key().toString()).distinct().count())
        .isEqualTo(duplicates);
  }

  /** Adds rows under keys that others use, too. */
  record Addition(List<Integer> keys, long first) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      List<Row> rows = new ArrayList<>();
      keys.forEach(k -> rows.add(Row.of(SimulatedWork.SCHEMA.struct(), k, first + rows.size())));
      tables.table(TABLE).add().add(rows, false, row -> {});
      return "";
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      for (int i = 0; i < keys.size(); i++) {
        SimulatedKeys.add(state.shared, keys.get(i), first + i);
      }
      return "";
    }
  }

  /** Removes all rows of some keys. */
  record Removal(int low, int high) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      Delete delete = tables.table(TABLE).delete().get().where(column("k").between(low, high));
      return "removed " + delete.run().report().rowsDeleted();
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      var range = state.shared.subMap(low, high + 1);
      int count = range.values().stream().mapToInt(List::size).sum();
      range.clear();
      return "removed " + count;
    }
  }

  /** Adds one to the values of all rows of some keys. */
  record Increase(int low, int high) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      Update update = tables.table(TABLE).update().get().where(column("k").between(low, high));
      return "increased "
          + update.setBy("v", row -> (Long) row.get("v") + 1).run().report().rowsUpdated();
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      var range = state.shared.subMap(low, high + 1);
      range.values().forEach(values -> values.replaceAll(v -> v + 1));
      return "increased " + range.values().stream().mapToInt(List::size).sum();
    }
  }

  /** Gives all rows of some keys a value, and adds those that are not there. */
  record Upsert(List<Integer> keys, long value) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      MergeSource source =
          MergeSource.values(
              List.of("k", "v"), to -> keys.forEach(k -> to.add(new Object[] {k, value})));
      return "merged "
          + tables
              .table(TABLE)
              .merge()
              .apply(source)
              .matched(Merge.takeAll())
              .unmatched(Merge.takeAll())
              .run()
              .report()
              .rowsMatched();
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      int matched = 0;
      for (int k : keys) {
        List<Long> values = state.shared.get(k);
        if (values == null) {
          SimulatedKeys.add(state.shared, k, value);
        } else {
          matched += values.size();
          values.replaceAll(v -> value);
        }
      }
      return "merged " + matched;
    }
  }
}
