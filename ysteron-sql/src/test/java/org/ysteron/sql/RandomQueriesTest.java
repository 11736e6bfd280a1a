package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Lake;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.InvalidInputException;
import org.ysteron.sql.keep.Running;

/**
 * Random queries on random rows give the rows that DuckDB finds, and SQLite where a query means the
 * same to it; without push-down, by several threads and with little memory they give them again.
 * More of them: {@code -Dysteron.queries=5000 -Dysteron.seed=1}.
 */
class RandomQueriesTest {
  private static final int QUERIES = Integer.getInteger("ysteron.queries", 200);
  private static final long SEED = Long.getLong("ysteron.seed", 20260301);
  private static final int BLOCK = 50;
  private static final long MUCH = 1L << 30;
  private static final long LITTLE = 200_000;

  /** Threads that share the smallest tables, too. */
  private static final Running.Threads THREE = new Running.Threads(3, 0);

  private static final List<Integer> SIZES = List.of(0, 1, 7, 40, 200);

  @TempDir Path directory;
  private int ofTwoOthers;
  private int withLittle;

  @Test
  void areAnsweredAsByOtherEngines() throws Exception {
    List<String> wrong = new ArrayList<>();
    for (int first = 0; first < QUERIES; first += BLOCK) {
      try (Lake lake = Lake.create(directory.resolve("lake" + first))) {
        Random random = new Random(SEED + first);
        List<String> tables = create(lake, random);
        try (OtherEngine duckdb = OtherEngine.duckdb(lake, tables);
            OtherEngine sqlite = OtherEngine.sqlite(lake, tables)) {
          for (int q = 0; q < BLOCK; q++) {
            long seed = SEED + first + q;
            String query = new RandomQuery(new Random(seed), tables).query();
            difference(lake, List.of(duckdb, sqlite), query)
                .ifPresent(text -> wrong.add(seed + ": " + text));
          }
        }
      }
    }
    assertThat(wrong).isEmpty();
    assertThat(ofTwoOthers).isGreaterThan(QUERIES / 10);
    assertThat(withLittle).isGreaterThan(QUERIES / 2);
  }

  /** Statements that change rows leave the rows that they leave in SQLite. */
  @Test
  void changesLeaveWhatTheyLeaveInAnotherEngine() throws Exception {
    try (Lake lake = Lake.create(directory.resolve("changed"))) {
      Random random = new Random(SEED);
      List<String> tables = create(lake, random);
      int changes = 0;
      try (OtherEngine sqlite = OtherEngine.sqlite(lake, tables)) {
        for (int q = 0; q < QUERIES; q++) {
          String change = new RandomQuery(new Random(SEED + q), tables).change();
          if (!sqlite.means(change) || isRefused(lake, change)) {
            continue;
          }
          sqlite.execute(change);
          changes++;
          for (String table : tables) {
            String all = "select i, b, t, o from " + table;
            assertThat(ours(lake, all, true, MUCH))
                .as("seed %d after %s", SEED + q, change)
                .isEqualTo(sqlite.rows(all));
          }
        }
      }
      assertThat(changes).isGreaterThan(QUERIES / 5);
    }
  }

  /** Whether a statement has values that do not fit, or too many rows by now. */
  private static boolean isRefused(Lake lake, String change) {
    try {
      lake.execute(change);
      return false;
    } catch (InvalidInputException e) {
      assertThat(e).hasMessageContaining("VARCHAR(20)");
      return true;
    }
  }

  private Optional<String> difference(Lake lake, List<OtherEngine> others, String query) {
    try {
      List<String> ours = ours(lake, query, true, MUCH);
      List<String> plainly = ours(lake, query, false, MUCH);
      if (!ours.equals(plainly)) {
        return different(query, ours, "without push-down", plainly);
      }
      List<String> shared = ours(lake, query, true, made -> made.by(THREE));
      if (!ours.equals(shared)) {
        return different(query, ours, "by three threads", shared);
      }
      Optional<List<String>> little = withLittle(lake, query);
      if (little.isPresent() && !ours.equals(little.get())) {
        return different(query, ours, "with little memory", little.get());
      }
      withLittle += little.isPresent() ? 1 : 0;
      for (OtherEngine other : others) {
        if (other.means(query)) {
          List<String> theirs = other.rows(query);
          if (!ours.equals(theirs)) {
            return different(query, ours, other.toString(), theirs);
          }
        }
      }
      ofTwoOthers += others.get(1).means(query) ? 1 : 0;
      return Optional.empty();
    } catch (Exception e) {
      return Optional.of("%s%n  %s".formatted(query, e));
    }
  }

  private static Optional<String> different(
      String query, List<String> ours, String what, List<String> others) {
    return Optional.of("%s%n  %s%n  %s %s".formatted(query, some(ours), what, some(others)));
  }

  /** The rows found with little memory; empty when that is refused. */
  private static Optional<List<String>> withLittle(Lake lake, String query) {
    try {
      return Optional.of(ours(lake, query, true, LITTLE));
    } catch (InvalidInputException e) {
      if (e.getMessage().contains(" MiB")) {
        return Optional.empty();
      }
      throw e;
    }
  }

  private static String some(List<String> rows) {
    return rows.size()
        + " rows: "
        + rows.subList(0, Math.min(Integer.getInteger("ysteron.shown", 6), rows.size()));
  }

  private static List<String> create(Lake lake, Random random) {
    RandomTables tables = new RandomTables(random);
    List<String> names = new ArrayList<>();
    for (String name : List.of("r.ash", "r.birch", "r.cedar")) {
      int rows = random.nextInt(12) == 0 ? 8193 : SIZES.get(random.nextInt(SIZES.size()));
      tables.create(lake, name, rows > 1000 && names.size() < 2 ? 40 : Math.min(rows, 900));
      names.add(name);
    }
    return names;
  }

  private static List<String> ours(Lake lake, String query, boolean pushes, long bytes) {
    return ours(lake, query, pushes, made -> made.within(bytes));
  }

  private static List<String> ours(
      Lake lake, String query, boolean pushes, UnaryOperator<SqlQuery> way) {
    SqlQuery made = SqlQuery.of(lake.now(), Optional.empty(), query, List.of(), pushes);
    List<String> found = new ArrayList<>();
    try (Results<Row> rows = way.apply(made).rows()) {
      for (Row row : rows) {
        List<String> values = new ArrayList<>();
        for (int c = 0; c < made.labels().size(); c++) {
          values.add(OtherEngine.text(row.get(c)));
        }
        found.add(values.toString());
      }
    }
    Collections.sort(found);
    return found;
  }
}
