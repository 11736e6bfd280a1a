package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Lake;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;

/**
 * Random queries on random rows give the rows that DuckDB finds in the same files. More of them:
 * {@code -Dysteron.queries=5000 -Dysteron.seed=1}.
 */
class RandomQueriesTest {
  private static final int QUERIES = Integer.getInteger("ysteron.queries", 200);
  private static final long SEED = Long.getLong("ysteron.seed", 20260301);
  private static final int BLOCK = 50;
  private static final List<Integer> SIZES = List.of(0, 1, 7, 40, 200);

  @TempDir Path directory;

  @Test
  void areAnsweredAsByAnotherEngine() throws Exception {
    List<String> wrong = new ArrayList<>();
    for (int first = 0; first < QUERIES; first += BLOCK) {
      Path path = directory.resolve("lake" + first);
      try (Lake lake = Lake.create(path);
          Connection connection = DriverManager.getConnection("jdbc:duckdb:");
          Statement duck = connection.createStatement()) {
        Random random = new Random(SEED + first);
        List<String> tables = create(lake, random);
        show(lake, tables, duck);
        for (int q = 0; q < BLOCK; q++) {
          long seed = SEED + first + q;
          String query = new RandomQuery(new Random(seed), tables).query();
          difference(lake, duck, query).ifPresent(text -> wrong.add(seed + ": " + text));
        }
      }
    }
    assertThat(wrong).isEmpty();
  }

  private static Optional<String> difference(Lake lake, Statement duck, String query) {
    try {
      List<String> ours = ours(lake, query, true);
      List<String> plainly = ours(lake, query, false);
      if (!ours.equals(plainly)) {
        return Optional.of(
            "%s%n  %s%n  without push-down %s".formatted(query, some(ours), some(plainly)));
      }
      List<String> theirs = theirs(duck, query);
      return ours.equals(theirs)
          ? Optional.empty()
          : Optional.of("%s%n  %s%n  %s".formatted(query, some(ours), some(theirs)));
    } catch (Exception e) {
      return Optional.of("%s%n  %s".formatted(query, e));
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

  private static void show(Lake lake, List<String> tables, Statement duck) throws Exception {
    duck.execute("create schema r");
    for (String table : tables) {
      duck.execute(
          "create table %s (i integer, b bigint, d decimal(9, 2), w decimal(30, 4), t varchar, x double, taken date, ts timestamp, o boolean)"
              .formatted(table));
      String columns =
          RandomTables.schema().columns().stream().map(c -> "?").collect(Collectors.joining(", "));
      try (var insert =
              duck.getConnection()
                  .prepareStatement("insert into %s values (%s)".formatted(table, columns));
          Results<Batch> batches = lake.table(table).scan().batches()) {
        for (Batch batch : batches) {
          for (Row row : batch.rows()) {
            for (int c = 0; c < batch.vectors().size(); c++) {
              insert.setObject(c + 1, row.get(c));
            }
            insert.execute();
          }
        }
      }
    }
  }

  private static List<String> ours(Lake lake, String query, boolean pushes) {
    SqlQuery made = SqlQuery.of(lake.now(), Optional.empty(), query, List.of(), pushes);
    List<String> found = new ArrayList<>();
    try (Results<Row> rows = made.rows()) {
      for (Row row : rows) {
        List<String> values = new ArrayList<>();
        for (int c = 0; c < made.labels().size(); c++) {
          values.add(text(row.get(c)));
        }
        found.add(values.toString());
      }
    }
    Collections.sort(found);
    return found;
  }

  private static List<String> theirs(Statement duck, String query) throws Exception {
    List<String> found = new ArrayList<>();
    try (ResultSet rows = duck.executeQuery(query)) {
      while (rows.next()) {
        List<String> values = new ArrayList<>();
        for (int c = 1; c <= rows.getMetaData().getColumnCount(); c++) {
          values.add(text(rows.getObject(c)));
        }
        found.add(values.toString());
      }
    }
    Collections.sort(found);
    return found;
  }

  private static String text(Object value) {
    if (value instanceof Double number) {
      return number.isNaN() || number.isInfinite()
          ? number.toString()
          : text(new BigDecimal(number));
    }
    if (value instanceof Number number) {
      BigDecimal exact = new BigDecimal(number.toString());
      return exact.signum() == 0 ? "0" : exact.stripTrailingZeros().toPlainString();
    }
    if (value instanceof java.sql.Timestamp time) {
      return time.toLocalDateTime().toString();
    }
    return value instanceof LocalDateTime time ? time.toString() : String.valueOf(value);
  }
}
