package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Function;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.YsteronException;
import org.ysteron.option.Retention;

/**
 * Random statements that change rows, alone and in transactions, beside packing, expiry, sweeps and
 * another writer, against a map. Rows keep their serials as long as they live.
 */
class RandomChangesTest {
  private static final int SEEDS = Integer.getInteger("ysteron.statements", 2);
  private static final int STATEMENTS = 30;
  private static final long OTHERS = 1_000_000;

  @TempDir Path directory;

  /** What a row has beside its key. */
  private record Level(String gauge, Long level) {}

  private static final class Run implements AutoCloseable {
    private final Random random;
    private final Lake lake;
    private final SqlSession session;
    private final List<String> done = new ArrayList<>();
    private final Set<Long> born = new HashSet<>();
    private NavigableMap<Long, Level> model = new TreeMap<>();
    private Map<Long, Long> serials = new TreeMap<>();

    Run(Path directory, long seed) {
      this.random = new Random(seed);
      this.lake = Lake.create(directory);
      this.session = new SqlSession(lake);
      does(
          "CREATE TABLE t.t (id BIGINT PRIMARY KEY, gauge VARCHAR(8), level BIGINT CHECK (level < 1000))"
              + (random.nextBoolean() ? " LAYOUT (LIST gauge)" : "")
              + (random.nextBoolean() ? " OPTIONS (\"file.bytes\" '2000')" : ""));
      does("CREATE TABLE t.s (id BIGINT, gauge VARCHAR, level BIGINT)");
    }

    SqlResult does(String sql) {
      done.add(sql);
      return session.execute(sql, List.of());
    }

    long id() {
      return random.nextInt(40);
    }

    String gauge() {
      return random.nextInt(8) == 0 ? null : "G" + random.nextInt(4);
    }

    Long level() {
      return random.nextInt(8) == 0 ? null : (long) random.nextInt(100);
    }

    static String literal(Object value) {
      return value == null ? "NULL" : value instanceof String ? "'" + value + "'" : "" + value;
    }

    /** Fills the source table; its ids may be there twice. */
    List<Object[]> source(boolean once) {
      does("TRUNCATE TABLE t.s");
      List<Object[]> rows = new ArrayList<>();
      for (int i = random.nextInt(12); i >= 0; i--) {
        long id = id();
        if (!once || rows.stream().noneMatch(row -> row[0].equals(id))) {
          rows.add(new Object[] {id, gauge(), level()});
        }
      }
      List<String> texts = new ArrayList<>();
      rows.forEach(
          row ->
              texts.add(
                  "(%s, %s, %s)".formatted(literal(row[0]), literal(row[1]), literal(row[2]))));
      does("INSERT INTO t.s VALUES " + String.join(", ", texts));
      return rows;
    }

    /** Some statement, and what it does to the model; null for one that has to fail. */
    Function<NavigableMap<Long, Level>, NavigableMap<Long, Level>> statement(List<String> sql) {
      switch (random.nextInt(9)) {
        case 0 -> {
          long id = id();
          Level level = new Level(gauge(), level());
          sql.add(
              "INSERT INTO t.t VALUES (%d, %s, %s)"
                  .formatted(id, literal(level.gauge), literal(level.level)));
          return model.containsKey(id)
              ? null
              : now -> {
                now.put(id, level);
                return now;
              };
        }
        case 1 -> {
          long most = id();
          sql.add("UPDATE t.t SET level = level + 1, gauge = DEFAULT WHERE id < " + most);
          boolean fails =
              model.headMap(most).values().stream().anyMatch(l -> l.level != null && l.level > 998);
          return fails
              ? null
              : now -> {
                now.headMap(most)
                    .replaceAll((id, l) -> new Level(null, l.level == null ? null : l.level + 1));
                return now;
              };
        }
        case 2 -> {
          List<Object[]> rows = source(false);
          sql.add("DELETE FROM t.t WHERE id IN (SELECT id FROM t.s WHERE level > 50)");
          return now -> {
            rows.stream()
                .filter(row -> row[2] != null && (Long) row[2] > 50)
                .forEach(row -> now.remove(row[0]));
            return now;
          };
        }
        case 3 -> {
          List<Object[]> rows = source(true);
          sql.add(
              "UPDATE t.t AS x SET level = (SELECT s.level FROM t.s AS s WHERE s.id = x.id), gauge = 'U' WHERE x.id < 1000 AND EXISTS (SELECT * FROM t.s AS s WHERE s.id = x.id)");
          return now -> {
            rows.forEach(
                row ->
                    now.computeIfPresent((Long) row[0], (id, l) -> new Level("U", (Long) row[2])));
            return now;
          };
        }
        case 4 -> {
          sql.add(
              "INSERT INTO t.t SELECT id + 40, gauge, level FROM t.t WHERE id < 20 AND id + 40 NOT IN (SELECT id FROM t.t)");
          return now -> {
            Map<Long, Level> added = new TreeMap<>();
            now.headMap(20L)
                .forEach(
                    (id, l) -> {
                      if (!now.containsKey(id + 40)) {
                        added.put(id + 40, l);
                      }
                    });
            now.putAll(added);
            return now;
          };
        }
        case 5 -> {
          sql.add("DELETE FROM t.t WHERE id >= 40 AND id < " + OTHERS);
          return now -> {
            now.tailMap(40L).clear();
            return now;
          };
        }
        default -> {
          return merge(sql);
        }
      }
    }

    private Function<NavigableMap<Long, Level>, NavigableMap<Long, Level>> merge(List<String> sql) {
      List<Object[]> rows = source(random.nextInt(3) > 0);
      boolean inserts = random.nextBoolean();
      boolean leaves = random.nextBoolean();
      boolean clears = random.nextInt(4) == 0;
      sql.add(
          "MERGE INTO t.t AS t USING t.s AS s ON t.id = s.id AND t.id < 1000"
              + " WHEN MATCHED AND s.level IS NULL THEN DELETE"
              + (leaves ? " WHEN MATCHED AND s.gauge = 'G1' THEN DO NOTHING" : "")
              + " WHEN MATCHED THEN UPDATE SET level = s.level, gauge = COALESCE(t.gauge, s.gauge)"
              + (inserts
                  ? " WHEN NOT MATCHED AND s.level > 10 THEN INSERT (id, level) VALUES (s.id, s.level)"
                  : "")
              + (clears
                  ? " WHEN NOT MATCHED BY SOURCE AND t.id < 5 THEN UPDATE SET gauge = 'gone'"
                  : ""));
      Map<Long, Integer> changes = new TreeMap<>();
      for (Object[] row : rows) {
        boolean isThere = model.containsKey(row[0]);
        boolean does =
            isThere
                ? row[2] == null || !leaves || !"G1".equals(row[1])
                : inserts && row[2] != null && (Long) row[2] > 10;
        if (does) {
          changes.merge((Long) row[0], 1, Integer::sum);
        }
      }
      if (changes.values().stream().anyMatch(count -> count > 1)) {
        return null; // a row would be changed, or a key inserted, twice
      }
      return now -> {
        NavigableMap<Long, Level> after = new TreeMap<>(now);
        for (Object[] row : rows) {
          Long id = (Long) row[0];
          Long level = (Long) row[2];
          Level before = now.get(id);
          if (before == null) {
            if (inserts && level != null && level > 10) {
              after.put(id, new Level(null, level));
            }
          } else if (level == null) {
            after.remove(id);
          } else if (!leaves || !"G1".equals(row[1])) {
            after.put(id, new Level(before.gauge == null ? (String) row[1] : before.gauge, level));
          }
        }
        if (clears) {
          now.headMap(5L)
              .forEach(
                  (id, l) -> {
                    if (rows.stream().noneMatch(row -> row[0].equals(id))) {
                      after.put(id, new Level("gone", l.level));
                    }
                  });
        }
        return after;
      };
    }

    /** One statement, or several in a transaction that may be rolled back. */
    void step() {
      born.clear();
      boolean several = random.nextInt(3) == 0;
      NavigableMap<Long, Level> before = new TreeMap<>(model);
      if (several) {
        does("START TRANSACTION ISOLATION LEVEL SNAPSHOT");
      }
      for (int i = several ? random.nextInt(4) : 0; i >= 0; i--) {
        List<String> sql = new ArrayList<>();
        var change = statement(sql);
        if (change == null) {
          assertThatThrownBy(() -> does(sql.get(0)))
              .as(done.toString())
              .isInstanceOf(YsteronException.class);
        } else {
          does(sql.get(0));
          Set<Long> there = Set.copyOf(model.keySet());
          model = change.apply(new TreeMap<>(model));
          model.keySet().stream().filter(id -> !there.contains(id)).forEach(born::add);
        }
        if (several) {
          compare();
        }
      }
      if (several && random.nextInt(4) == 0) {
        does("ROLLBACK");
        model = before;
        born.clear();
      } else if (several) {
        does("COMMIT");
      }
      compare();
      keepsSerials(before);
    }

    private List<String> rows(String query) {
      SqlResult.Rows result = (SqlResult.Rows) session.execute(query, List.of());
      try (Results<Row> rows = result.query().rows()) {
        return rows.stream().map(row -> Arrays.toString(row.values())).toList();
      }
    }

    private void compare() {
      List<String> expected = new ArrayList<>();
      model.forEach((id, l) -> expected.add("[%d, %s, %s]".formatted(id, l.gauge, l.level)));
      assertThat(rows("SELECT * FROM t.t WHERE id < %d ORDER BY id".formatted(OTHERS)))
          .as(() -> String.join(";\n", done))
          .isEqualTo(expected);
    }

    /** Rows that were there before, and are, have the serials that they had. */
    private void keepsSerials(NavigableMap<Long, Level> before) {
      Map<Long, Long> now = new TreeMap<>();
      lake.table("t.t")
          .now()
          .scan()
          .tasks()
          .forEach(
              task ->
                  task.read(lakeStore())
                      .forEach(
                          batch -> {
                            for (int i = 0; i < batch.rows().size(); i++) {
                              now.put((Long) batch.rows().row(i).get("id"), batch.serials()[i]);
                            }
                          }));
      now.forEach(
          (id, serial) -> {
            boolean stayed = before.containsKey(id) && serials.containsKey(id);
            if (stayed && !born.contains(id)) {
              assertThat(serial).as(() -> String.join(";\n", done)).isEqualTo(serials.get(id));
            }
          });
      serials = now;
    }

    private org.ysteron.store.ObjectStore lakeStore() {
      return new org.ysteron.store.LocalStore(Path.of(lake.location()));
    }

    @Override
    public void close() {
      session.close();
      lake.close();
    }
  }

  @Test
  void areWhatAMapSays() throws Exception {
    for (int seed = 0; seed < SEEDS; seed++) {
      try (Run run = new Run(directory.resolve("lake" + seed), seed)) {
        AtomicBoolean ends = new AtomicBoolean();
        List<Throwable> failed = new ArrayList<>();
        Thread other =
            new Thread(
                () -> {
                  try {
                    beside(run.lake, ends);
                  } catch (Throwable e) {
                    failed.add(e);
                  }
                });
        other.start();
        try {
          for (int i = 0; i < STATEMENTS; i++) {
            run.step();
          }
        } finally {
          ends.set(true);
          other.join();
        }
        assertThat(failed).isEmpty();
        assertThat(run.lake.check().run().findings()).isEmpty();
      }
    }
  }

  /** Packs, expires, sweeps, and adds rows of its own. */
  private static void beside(Lake lake, AtomicBoolean ends) throws InterruptedException {
    Table table = lake.table("t.t");
    for (long i = 0; !ends.get(); i++) {
      lake.execute("INSERT INTO t.t VALUES (%d, 'other', %d)".formatted(OTHERS + i, i % 1000));
      table.compact().full().run();
      if (i % 3 == 0) {
        table.expire().keeping(Retention.EVERYTHING.andNewest(20)).run();
        lake.sweep().after(Duration.ofHours(1)).run();
      }
      Thread.sleep(50);
    }
  }
}
