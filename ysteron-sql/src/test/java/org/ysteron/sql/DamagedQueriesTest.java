package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;

/**
 * Queries over a lake of which one object is damaged give the right answer or an error of ours.
 * More of them: {@code -Dysteron.damages=1000 -Dysteron.seed=1}.
 */
class DamagedQueriesTest {
  private static final int DAMAGES = Integer.getInteger("ysteron.damages", 25);
  private static final long SEED = Long.getLong("ysteron.seed", new Random().nextLong());
  private static final List<String> QUERIES =
      List.of(
          "SELECT count(*), sum(n), max(t) FROM x.t",
          "SELECT count(*), min(n), max(n) FROM x.t",
          "SELECT a.t, count(*) FROM x.t a JOIN x.u b ON a.n = b.n GROUP BY a.t",
          "SELECT count(*) FROM x.t FOR SYSTEM_TIME AS OF lake.version(2) WHERE n > 50",
          "SELECT t, rank() OVER (ORDER BY t) FROM x.u WHERE n < 3",
          "SELECT table_name, sum(row_count) FROM lake.files GROUP BY table_name",
          "SELECT table_name, version, operation FROM lake.versions",
          "SELECT what, count(*) FROM TABLE(lake.changes(TABLE x.t, since => lake.version(1))) c GROUP BY what");

  @TempDir Path directory;

  @Test
  void aDamagedObjectIsReportedOrNotRead() throws Exception {
    Path whole = directory.resolve("whole");
    List<String> right = new ArrayList<>();
    try (Lake lake = Lake.create(whole)) {
      fill(lake);
      QUERIES.forEach(query -> right.add(answer(lake, query)));
    }
    List<Path> objects = objects(whole);
    Random random = new Random(SEED);
    int reported = 0;
    for (int d = 0; d < DAMAGES; d++) {
      Path copy = Files.createDirectory(directory.resolve("copy" + d));
      copy(whole, copy);
      Path object = whole.relativize(objects.get(random.nextInt(objects.size())));
      String how = damage(copy.resolve(object), object.startsWith("ledger"), random);
      for (int q = 0; q < QUERIES.size(); q++) {
        Optional<String> found = tried(copy, QUERIES.get(q));
        reported += found.isEmpty() ? 1 : 0;
        assertThat(found.orElse(right.get(q)))
            .as("seed %d: %s %s, %s", SEED, object, how, QUERIES.get(q))
            .isEqualTo(right.get(q));
      }
    }
    assertThat(reported).isGreaterThan(DAMAGES / 2);
  }

  private static void fill(Lake lake) {
    for (String name : List.of("x.t", "x.u")) {
      Table table =
          lake.createTable(
              name, Schema.of(Field.of("n", Types.BIGINT), Field.of("t", Types.text(9))));
      for (int commit = 0; commit < 3; commit++) {
        try (Append append = table.append()) {
          for (long i = 0; i < 60; i++) {
            append.add(i + commit * 20L, "t" + i % 7);
          }
          append.commit();
        }
      }
      table.delete().where(Expression.column("n").equalTo(9)).run();
      table
          .update()
          .set("t", Expression.literal("zz"))
          .where(Expression.column("n").equalTo(11))
          .run();
    }
  }

  private static String answer(Lake lake, String query) {
    List<String> found = new ArrayList<>();
    try (Results<Row> rows = lake.sql(query).rows()) {
      rows.forEach(row -> found.add(Arrays.toString(row.values())));
    }
    Collections.sort(found);
    return found.toString();
  }

  /** The answer; empty when the damage was reported. */
  private static Optional<String> tried(Path path, String query) {
    try (Lake lake = Lake.open(path)) {
      return Optional.of(answer(lake, query));
    } catch (YsteronException e) {
      return Optional.empty();
    }
  }

  /** An entry is not removed: a lake without its newest entry is an earlier one. */
  private static String damage(Path object, boolean isEntry, Random random) throws Exception {
    byte[] bytes = Files.readAllBytes(object);
    switch (random.nextInt(isEntry ? 2 : 3)) {
      case 0 -> {
        int at = random.nextInt(bytes.length);
        bytes[at] ^= (byte) (1 << random.nextInt(8));
        Files.write(object, bytes);
        return "with another byte " + at;
      }
      case 1 -> {
        int length = random.nextInt(bytes.length);
        Files.write(object, Arrays.copyOf(bytes, length));
        return "cut to %d bytes".formatted(length);
      }
      default -> {
        Files.delete(object);
        return "removed";
      }
    }
  }

  private static List<Path> objects(Path lake) throws Exception {
    try (Stream<Path> all = Files.walk(lake)) {
      return all.filter(path -> Files.isRegularFile(path) && path.toFile().length() > 0)
          .sorted()
          .toList();
    }
  }

  private static void copy(Path from, Path to) throws Exception {
    for (Path object : objects(from)) {
      Path copy = to.resolve(from.relativize(object).toString());
      Files.createDirectories(copy.getParent());
      Files.copy(object, copy);
    }
  }
}
