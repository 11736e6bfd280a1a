package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.CancelledException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.LakeOptions;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.store.LocalStore;

/** Queries that are cancelled end soon, wherever they are, and leave no file and no thread. */
class CancelTest {
  private static final long LITTLE = 3 << 20;

  /** So many that several threads share them. */
  private static final long ROWS = 120_000;

  @TempDir Path directory;
  private Path temporary;
  private Lake lake;

  @BeforeEach
  void create() throws Exception {
    temporary = Files.createDirectory(directory.resolve("temporary"));
    lake =
        Lake.create(
            new LocalStore(directory.resolve("lake")),
            LakeOptions.DEFAULTS.temporaryDirectory(temporary));
    try (Append append =
        lake.createTable(
                "x.n", Schema.of(Field.of("n", Types.BIGINT), Field.of("t", Types.text(20))))
            .append()) {
      for (long i = 0; i < ROWS; i++) {
        append.add(i, "text " + i);
      }
      append.commit();
    }
    Files.writeString(
        directory.resolve("n.csv"),
        "n\n"
            + Stream.iterate(0, i -> i < 60_000, i -> i + 1)
                .map(String::valueOf)
                .collect(Collectors.joining("\n"))
            + "\n");
  }

  @AfterEach
  void close() {
    lake.close();
  }

  /** Cancels at the so manieth time when it is asked, and remembers when that was. */
  private static final class Cancelling implements ProgressMonitor {
    private final AtomicLong left;
    private volatile long since;

    Cancelling(long after) {
      this.left = new AtomicLong(after);
    }

    @Override
    public boolean isCancelled() {
      boolean cancels = left.decrementAndGet() < 0;
      since = cancels && since == 0 ? System.nanoTime() : since;
      return cancels;
    }
  }

  private static Set<String> threads() {
    return Thread.getAllStackTraces().keySet().stream()
        .map(Thread::getName)
        .filter(name -> name.startsWith("ysteron"))
        .collect(Collectors.toSet());
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT count(*) FROM x.n a JOIN x.n b ON a.n + b.n = -1",
        "SELECT count(*) FROM x.n a, x.n b WHERE a.t < b.t",
        "SELECT a.t, b.t FROM x.n a JOIN x.n b ON a.t = b.t ORDER BY a.t, b.t DESC",
        "SELECT t, count(*) FROM x.n GROUP BY t",
        "SELECT n - n / 10 * 10, count(*), max(t) FROM x.n GROUP BY n - n / 10 * 10",
        "SELECT t, sum(n) OVER (PARTITION BY n ORDER BY t) FROM x.n",
        "SELECT t FROM x.n EXCEPT SELECT t FROM x.n WHERE n < 5",
        "WITH RECURSIVE r(k) AS (VALUES (1) UNION ALL SELECT k + 1 FROM r) SELECT max(k) FROM r",
        "SELECT count(*) FROM TABLE(lake.file('%s/n.csv', columns => 'n BIGINT')) AS f, x.n"
      })
  void aCancelledQueryEndsSoon(String query) throws Exception {
    Set<String> before = threads();
    for (long after : new long[] {2, 12}) {
      Cancelling monitor = new Cancelling(after);
      String text = query.formatted(directory);

      assertThatThrownBy(
              () -> lake.watchedBy(monitor).sql(text).within(LITTLE).rows().forEach(row -> {}))
          .as("after %d", after)
          .isInstanceOf(CancelledException.class);

      Duration took = Duration.ofNanos(System.nanoTime() - monitor.since);
      assertThat(took).isLessThan(Duration.ofSeconds(2)); // 200 ms are measured by hand
      try (Stream<Path> files = Files.list(temporary)) {
        assertThat(files).isEmpty();
      }
    }
    assertThat(threads()).isEqualTo(before);
  }

  @Test
  void aQueryThatFailsInOneOfItsThreadsLeavesNone() {
    Set<String> before = threads();

    assertThatThrownBy(
            () -> lake.sql("SELECT count(*), max(1 / (n - 119999)) FROM x.n").rows().toList())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("division by zero");
    assertThat(threads()).isEqualTo(before);
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT n / 1000 - n / 1000 AS g, count(*), count(t), sum(n), avg(n), min(t), max(t), every(n >= 0), some(n > 119998), max(n) FROM x.n GROUP BY ROLLUP (n / 1000 - n / 1000) ORDER BY 1, 2",
        "SELECT count(*), count(b.n), max(b.n), max(a.n), min(c.t) FROM x.n a LEFT JOIN x.n b ON a.n = b.n * 2 AND b.t > '1' JOIN x.n c ON c.t = a.t WHERE a.n NOT IN (SELECT n FROM x.n WHERE n < 100)",
        "SELECT max(n), t, count(*) FROM x.n a WHERE EXISTS (SELECT * FROM x.n b WHERE b.n = a.n + 1 AND b.t <> a.t) OR n = 119999 GROUP BY t ORDER BY 1 DESC LIMIT 9000",
        "SELECT t, 119999 - n FROM x.n ORDER BY CHAR_LENGTH(t), n DESC"
      })
  void severalThreadsFindWhatOneFinds(String query) throws Exception {
    List<String> found = new ArrayList<>();
    for (int threads : new int[] {1, 4}) {
      try (Lake other =
              Lake.open(
                  new LocalStore(directory.resolve("lake")),
                  LakeOptions.DEFAULTS.threads(threads));
          Results<Row> rows = other.sql(query).rows()) {
        found.add(rows.stream().map(row -> Arrays.toString(row.values())).toList().toString());
      }
    }
    assertThat(found.get(1)).isEqualTo(found.get(0)).contains("119999");
  }
}
