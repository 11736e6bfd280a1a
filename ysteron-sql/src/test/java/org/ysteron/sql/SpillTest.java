package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Query;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.LakeOptions;
import org.ysteron.sql.keep.Running;
import org.ysteron.store.LocalStore;

/** Queries whose rows wait in temporary files give what they give in memory, and leave none. */
class SpillTest {
  private static final int ROWS = 30_000;
  private static final long LITTLE = 3 << 20;
  private static final Running.Threads THREE = new Running.Threads(3, 0);

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
    Table table =
        lake.createTable(
            "tide.packets",
            Schema.of(
                Field.of("id", Types.BIGINT),
                Field.of("gauge", Types.text(20)),
                Field.of("level", Types.decimal(9, 2)),
                Field.of("note", Types.text(40))));
    try (Append append = table.append()) {
      for (long i = 0; i < ROWS; i++) {
        long mixed = i * 7919 % ROWS;
        append.add(
            mixed,
            i % 11 == 0 ? null : "gauge-" + mixed / 2,
            new java.math.BigDecimal(mixed % 5000).movePointLeft(2),
            "a note on packet number " + mixed);
      }
      append.commit();
    }
  }

  @AfterEach
  void close() {
    lake.close();
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT gauge, note, count(*), sum(level), min(id) FROM tide.packets GROUP BY gauge, note",
        "SELECT gauge, count(*), max(note) FROM tide.packets GROUP BY ROLLUP (gauge)",
        "SELECT a.id, b.note FROM tide.packets a JOIN tide.packets b ON a.gauge = b.gauge",
        "SELECT a.id, b.note FROM tide.packets a LEFT JOIN tide.packets b ON a.id = b.id + 9000 AND a.level < b.level",
        "SELECT a.id, b.note FROM tide.packets a FULL JOIN tide.packets b ON a.id = b.id + 20000",
        "SELECT a.id FROM tide.packets a WHERE EXISTS (SELECT 1 FROM tide.packets b WHERE b.gauge = a.gauge AND b.id > a.id)",
        "SELECT a.id FROM tide.packets a WHERE NOT EXISTS (SELECT 1 FROM tide.packets b WHERE b.gauge = a.gauge AND b.id > a.id)",
        "SELECT note, id FROM tide.packets ORDER BY level DESC, note",
        "SELECT DISTINCT gauge, level FROM tide.packets",
        "SELECT note, gauge FROM tide.packets INTERSECT SELECT note, gauge FROM tide.packets WHERE id > 100",
        "SELECT note, gauge FROM tide.packets EXCEPT ALL SELECT note, gauge FROM tide.packets WHERE id > 9000",
        "SELECT id, rank() OVER (PARTITION BY gauge ORDER BY id), sum(level) OVER (PARTITION BY gauge) FROM tide.packets",
        "SELECT id, count(*) OVER (PARTITION BY gauge, level ORDER BY id), max(note) OVER (PARTITION BY gauge) FROM tide.packets",
        "SELECT id, row_number() OVER (ORDER BY level, id), dense_rank() OVER (ORDER BY level), sum(level) OVER (), lag(note, 3) OVER (ORDER BY id DESC) FROM tide.packets",
        "SELECT id, ntile(7) OVER w, percent_rank() OVER w, cume_dist() OVER w, count(*) OVER w, first_value(gauge) OVER w, last_value(id) OVER (w ROWS BETWEEN 2 PRECEDING AND 5 FOLLOWING) FROM tide.packets WINDOW w AS (ORDER BY level DESC, id)",
        "SELECT id, sum(id) OVER (ORDER BY level RANGE BETWEEN 0.07 PRECEDING AND 0.02 FOLLOWING), min(note) OVER (ORDER BY id ROWS BETWEEN 3 PRECEDING AND CURRENT ROW EXCLUDE CURRENT ROW) FROM tide.packets",
        "SELECT id, sum(level) OVER (ORDER BY id ROWS BETWEEN CURRENT ROW AND UNBOUNDED FOLLOWING), max(note) OVER (ORDER BY level RANGE BETWEEN 0.01 PRECEDING AND UNBOUNDED FOLLOWING) FROM tide.packets",
        "SELECT id, lead(gauge) IGNORE NULLS OVER (PARTITION BY id - id ORDER BY id), count(DISTINCT level) OVER (PARTITION BY level - level ORDER BY id) FROM tide.packets",
        "SELECT id FROM tide.packets WHERE note || 'x' IN (SELECT note || 'x' FROM tide.packets WHERE level < 30)",
        "SELECT id FROM tide.packets WHERE note NOT IN (SELECT note FROM tide.packets WHERE id < 29000)",
        "SELECT id, note IN (SELECT CASE WHEN id = 22081 THEN NULL ELSE note END FROM tide.packets WHERE level < 30) FROM tide.packets",
        "SELECT id, (gauge, note) IN (SELECT gauge, note FROM tide.packets WHERE id > 20) FROM tide.packets WHERE id < 60",
        "SELECT id, level IN (SELECT b.level FROM tide.packets b WHERE b.note > a.note) FROM tide.packets a WHERE id < 60"
      })
  void aQueryWithLittleMemoryGivesTheSame(String query) throws Exception {
    boolean ordered = query.contains("packets ORDER BY");
    List<String> inMemory = rows(lake.sql(query).within(1L << 30), ordered, false);

    SqlQuery shared = SqlQuery.of(lake.now(), Optional.empty(), query, List.of()).by(THREE);
    assertThat(rows(shared.within(LITTLE), ordered, true)).isEqualTo(inMemory);
    assertThat(files()).isZero();

    List<String> spilled = rows(lake.sql(query).within(LITTLE), ordered, true);

    assertThat(spilled).isEqualTo(inMemory);
    assertThat(files()).isZero();
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT count(DISTINCT note) FROM tide.packets",
        "SELECT level, count(DISTINCT note) FROM tide.packets GROUP BY level",
        "SELECT count(DISTINCT note), count(DISTINCT gauge), sum(DISTINCT id), sum(id) FROM tide.packets",
        "SELECT level < 20, count(DISTINCT note), count(DISTINCT gauge) FILTER (WHERE id > 500), min(note) FROM tide.packets GROUP BY level < 20",
        "SELECT level < 20, percentile_cont(0.37) WITHIN GROUP (ORDER BY id), percentile_disc(0.5) WITHIN GROUP (ORDER BY note DESC), count(*) FROM tide.packets GROUP BY level < 20",
        "SELECT count(*), max(l) FROM (SELECT listagg(note, ', ') WITHIN GROUP (ORDER BY id DESC) AS l FROM tide.packets)"
      })
  void differentValuesWaitInFilesToo(String query) throws Exception {
    List<String> inMemory = rows(lake.sql(query).within(1L << 30), false, false);

    assertThat(rows(lake.sql(query).within(LITTLE), false, false)).isEqualTo(inMemory);
    String measured = "EXPLAIN ANALYZE " + query;
    try (Results<Row> steps = lake.sql(measured).within(LITTLE).rows()) {
      assertThat(
              steps.stream().mapToLong(step -> step.get(4) == null ? 0 : (Long) step.get(4)).sum())
          .isPositive();
    }
    assertThat(files()).isZero();
  }

  @Test
  void theWorkOfSeveralThreadsIsMeasuredLikeThatOfOne() {
    String query =
        "EXPLAIN ANALYZE SELECT a.gauge, count(*) FROM tide.packets a JOIN tide.packets b ON a.id = b.id GROUP BY a.gauge";
    List<List<Object>> measured = new ArrayList<>();
    for (Running.Threads threads : List.of(Running.Threads.ONE, THREE)) {
      SqlQuery explained = SqlQuery.of(lake.now(), Optional.empty(), query, List.of()).by(threads);
      try (Results<Row> steps = explained.rows()) {
        measured.add(
            steps.stream()
                .filter(step -> ((String) step.get(5)).contains("join"))
                .<Object>map(step -> Arrays.asList(step.get(1), step.get(3), step.get(5)))
                .toList());
      }
    }

    assertThat(measured.get(0).toString()).contains("" + ROWS);
    assertThat(measured.get(1)).hasSize(1).isEqualTo(measured.get(0));
  }

  @Test
  void aQueryThatIsClosedEarlyLeavesNoFile() throws Exception {
    Query query = lake.sql("SELECT note, id FROM tide.packets ORDER BY note").within(LITTLE);
    try (Results<Row> rows = query.rows()) {
      assertThat(rows.next()).isPresent();
      assertThat(files()).isPositive();
    }
    assertThat(files()).isZero();
  }

  /** The row that cannot be computed is the last one. */
  @ParameterizedTest
  @ValueSource(
      strings = {
        "SELECT gauge, note, sum(1 / (id - 22081)) FROM tide.packets GROUP BY gauge, note",
        "SELECT a.id, b.note FROM tide.packets a JOIN tide.packets b ON a.gauge = b.gauge AND b.level = 1 / (b.id - 22081)",
        "SELECT a.id FROM tide.packets a JOIN (SELECT gauge, note, 1 / (id - 22081) AS x FROM tide.packets) b ON a.gauge = b.gauge AND b.x = a.id",
        "SELECT note, 1 / (id - 22081) FROM tide.packets ORDER BY 2, 1"
      })
  void aQueryThatFailsLeavesNoFile(String query) throws Exception {
    assertThatThrownBy(() -> lake.sql(query).within(LITTLE).rows().toList())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("division by zero");
    assertThat(files()).isZero();
  }

  @Test
  void moreRowsOfOneKeyThanFitAreRefused() throws Exception {
    Query query =
        lake.sql(
                "SELECT count(*) FROM tide.packets a JOIN (SELECT note, 1 AS same FROM tide.packets) b ON b.same = a.id - a.id + 1")
            .within(1 << 20);

    assertThatThrownBy(() -> query.rows().toList())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("1 MiB");
    assertThat(files()).isZero();
  }

  private long files() throws Exception {
    try (Stream<Path> all = Files.list(temporary)) {
      return all.count();
    }
  }

  private List<String> rows(Query query, boolean ordered, boolean spills) throws Exception {
    List<String> found = new ArrayList<>();
    boolean waited = false;
    try (Results<Row> rows = query.rows()) {
      for (Row row : rows) {
        waited |= found.isEmpty() && files() > 0;
        found.add(Arrays.toString(row.values()));
      }
    }
    assertThat(waited).isEqualTo(spills);
    if (!ordered) {
      found.sort(null);
    }
    return found;
  }
}
