package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.Lake;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;

/** INSERT, UPDATE and DELETE, each in a commit of its own. */
class ChangesBySqlTest {
  @TempDir Path directory;
  private Lake lake;

  @BeforeEach
  void create() {
    lake = Lake.create(directory.resolve("lake"));
    lake.createTable(
        "tide.levels",
        Schema.of(
                Field.of("id", Types.BIGINT).notNull(),
                Field.of("gauge", Types.text(8)),
                Field.of("level", Types.decimal(7, 1)),
                Field.of("quality", Types.text(10)).withDefault("raw"),
                Field.of("seen", Types.INSTANT).withDefault(Expression.now()))
            .withKey("id"));
    lake.table("tide.levels")
        .alter()
        .check("sound", Expression.column("level").lessThan(new BigDecimal("900")))
        .run();
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private List<String> rows(String query) {
    try (Results<Row> rows = lake.sql(query).rows()) {
      return rows.stream().map(row -> Arrays.toString(row.values())).toList();
    }
  }

  private ChangeReport report(String text, Object... parameters) {
    return lake.execute(text, parameters).report();
  }

  @Test
  void insertTakesValuesDefaultsAndParameters() {
    WriteResult result =
        lake.execute(
            "INSERT INTO tide.levels (id, level, gauge) VALUES (1, 2.25, 'ORR-01'), (?, ?, ?)",
            2,
            new BigDecimal("7"),
            null);

    assertThat(result.report().rowsInserted()).isEqualTo(2);
    assertThat(rows("SELECT id, gauge, level, quality, seen IS NULL FROM tide.levels ORDER BY id"))
        .containsExactly("[1, ORR-01, 2.3, raw, false]", "[2, null, 7.0, raw, false]");
    assertThat(rows("SELECT count(DISTINCT seen) FROM tide.levels")).containsExactly("[1]");
  }

  @Test
  void insertReadsTheStateBeforeIt() {
    report("INSERT INTO tide.levels (id, level) VALUES (1, 10), (2, 20)");

    report("INSERT INTO tide.levels SELECT id + 10, gauge, level, 'copy', seen FROM tide.levels");

    assertThat(rows("SELECT id, quality FROM tide.levels ORDER BY id"))
        .containsExactly("[1, raw]", "[2, raw]", "[11, copy]", "[12, copy]");
  }

  @Test
  void updateComputesFromTheRowAsItWasAndKeepsSerials() {
    report("INSERT INTO tide.levels (id, level) VALUES (1, 10), (2, 20), (3, NULL)");

    ChangeReport changed =
        report(
            "UPDATE tide.levels AS t SET level = t.level * 2 + ?, quality = CASE WHEN level > 15 THEN 'high' END WHERE t.id < 3",
            new BigDecimal("0.5"));

    assertThat(changed.rowsUpdated()).isEqualTo(2);
    assertThat(rows("SELECT id, level, quality FROM tide.levels ORDER BY id"))
        .containsExactly("[1, 20.5, null]", "[2, 40.5, high]", "[3, null, raw]");
    assertThat(
            rows(
                "SELECT what, count(*) FROM TABLE(lake.changes(TABLE tide.levels, since => lake.version(2))) c GROUP BY what"))
        .containsExactly("[updated, 2]");
  }

  @Test
  void aStatementThatNoRowCanPassChangesNothing() {
    report("INSERT INTO tide.levels (id, level) VALUES (1, 10)");

    assertThat(report("DELETE FROM tide.levels WHERE false").isNothing()).isTrue();
    assertThat(report("UPDATE tide.levels SET level = 2 WHERE 1 = 2").isNothing()).isTrue();
    assertThat(report("INSERT INTO tide.levels SELECT * FROM tide.levels WHERE false").isNothing())
        .isTrue();
  }

  @Test
  void nestedColumnsThatAreNotNamedAreNull() {
    lake.createTable(
        "tide.lists",
        Schema.of(
            Field.of("id", Types.BIGINT),
            Field.of("all", Types.listOf(Types.INTEGER)),
            Field.of("doc", Types.JSON)));

    report("INSERT INTO tide.lists (id) VALUES (1)");
    report("INSERT INTO tide.lists VALUES (2, ARRAY[1, 2], '{\"a\": 1}')");

    assertThat(rows("SELECT id, \"all\" IS NULL, doc FROM tide.lists ORDER BY id"))
        .containsExactly("[1, true, null]", "[2, false, {\"a\": 1}]");
  }

  @Test
  void deleteRemovesRowsThatPass() {
    report("INSERT INTO tide.levels (id, level) VALUES (1, 10), (2, 20), (3, NULL)");

    assertThat(report("DELETE FROM tide.levels WHERE level > 15").rowsDeleted()).isEqualTo(1);
    assertThat(report("DELETE FROM tide.levels WHERE level > 15").isNothing()).isTrue();
    assertThat(report("DELETE FROM tide.levels").rowsDeleted()).isEqualTo(2);
  }

  @Test
  void subqueriesFindRowsAndValues() {
    report(
        "INSERT INTO tide.levels (id, gauge, level) VALUES (1, 'A', 10), (2, 'A', 20), (3, 'B', 5)");

    ChangeReport updated =
        report(
            "UPDATE tide.levels AS t SET level = (SELECT max(o.level) FROM tide.levels AS o WHERE o.gauge = t.gauge), quality = DEFAULT WHERE EXISTS (SELECT * FROM tide.levels AS o WHERE o.gauge = t.gauge AND o.id <> t.id)");
    assertThat(updated.rowsUpdated()).isEqualTo(2);
    assertThat(rows("SELECT id, gauge, level, quality FROM tide.levels ORDER BY id"))
        .containsExactly("[1, A, 20.0, raw]", "[2, A, 20.0, raw]", "[3, B, 5.0, raw]");

    ChangeReport deleted =
        report(
            "DELETE FROM tide.levels WHERE id IN (SELECT min(id) FROM tide.levels GROUP BY gauge)");
    assertThat(deleted.rowsDeleted()).isEqualTo(2);
    assertThat(rows("SELECT id FROM tide.levels")).containsExactly("[2]");
    assertThat(
            rows(
                "SELECT what, count(*) FROM TABLE(lake.changes(TABLE tide.levels, since => lake.version(2), until => lake.version(3))) c GROUP BY what"))
        .containsExactly("[updated, 1]");
  }

  @Test
  void aMergeDoesWhatTheFirstClauseSaysThatApplies() {
    report(
        "INSERT INTO tide.levels (id, gauge, level) VALUES (1, 'A', 1), (2, 'B', 2), (3, 'C', 3), (4, 'D', 4), (5, 'E', 5)");

    ChangeReport merged =
        report(
            "MERGE INTO tide.levels AS t USING (VALUES (1, 10), (2, 20), (3, 30), (7, 70), (8, 80), (9, 90)) AS s (id, n)"
                + " ON t.id = s.id"
                + " WHEN MATCHED AND s.n = 20 THEN DELETE"
                + " WHEN MATCHED AND t.gauge = 'C' THEN DO NOTHING"
                + " WHEN MATCHED THEN UPDATE SET level = t.level + s.n, quality = 'merged'"
                + " WHEN NOT MATCHED AND n = 70 THEN INSERT (id, level) VALUES (s.id, n)"
                + " WHEN NOT MATCHED BY TARGET AND n = 80 THEN INSERT VALUES (s.id, 'new', DEFAULT, ?, CURRENT_TIMESTAMP)"
                + " WHEN NOT MATCHED BY SOURCE AND t.id = 4 THEN UPDATE SET gauge = 'gone'"
                + " WHEN NOT MATCHED BY SOURCE THEN DELETE",
            "good");

    assertThat(merged.rowsUpdated()).isEqualTo(2);
    assertThat(merged.rowsDeleted()).isEqualTo(2);
    assertThat(merged.rowsInserted()).isEqualTo(2);
    assertThat(rows("SELECT id, gauge, level, quality FROM tide.levels ORDER BY id"))
        .containsExactly(
            "[1, A, 11.0, merged]",
            "[3, C, 3.0, raw]",
            "[4, gone, 4.0, raw]",
            "[7, null, 70.0, raw]",
            "[8, new, null, good]");
    assertThat(rows("SELECT operation FROM lake.versions WHERE version = 3"))
        .containsExactly("[merge]");
  }

  @Test
  void aMergeOnAnyConditionKeepsSerials() {
    report(
        "INSERT INTO tide.levels (id, gauge, level) VALUES (1, 'A', 1), (2, 'A', 20), (3, 'B', 3)");

    report(
        "MERGE INTO tide.levels USING (SELECT 'A' AS g, 5 AS least, 15 AS most) AS s"
            + " ON tide.levels.gauge = s.g AND tide.levels.level BETWEEN s.least - 4 AND s.most"
            + " WHEN MATCHED THEN UPDATE SET id = id + 100");

    assertThat(
            rows(
                "SELECT what, id, c.was.id FROM TABLE(lake.changes(TABLE tide.levels, since => lake.version(2))) c"))
        .containsExactly("[updated, 101, 1]");
  }

  @Test
  void truncateLeavesNothing() {
    report("INSERT INTO tide.levels (id) VALUES (1), (2)");

    assertThat(report("TRUNCATE TABLE tide.levels").rowsDeleted()).isEqualTo(2);
    assertThat(report("TRUNCATE TABLE tide.levels").isNothing()).isTrue();
  }

  @Test
  void defaultStandsForTheDefaultOfItsColumn() {
    report(
        "INSERT INTO tide.levels (id, quality, level) VALUES (1, 'x', 1), (2, DEFAULT, DEFAULT)");
    assertThat(rows("SELECT quality, level FROM tide.levels ORDER BY id"))
        .containsExactly("[x, 1.0]", "[raw, null]");

    report("UPDATE tide.levels SET quality = DEFAULT, seen = DEFAULT WHERE id = 1");
    assertThat(rows("SELECT quality, seen IS NULL FROM tide.levels WHERE id = 1"))
        .containsExactly("[raw, false]");

    lake.table("tide.levels").alter().dropKey().nullable("id").run();
    report("INSERT INTO tide.levels DEFAULT VALUES");
    assertThat(rows("SELECT id, quality FROM tide.levels WHERE id IS NULL"))
        .containsExactly("[null, raw]");
  }

  @Test
  void theHistoryHasTheTextAndNotTheParameters() {
    String text = "INSERT INTO tide.levels (id, gauge) VALUES (?, ?)";
    lake.execute(text, 1, "secret");

    assertThat(lake.commits(1).toString()).contains(text).doesNotContain("secret");
    assertThat(rows("SELECT operation FROM lake.versions WHERE version = 2"))
        .containsExactly("[append]");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      value = {
        "SELECT 1 | This is not one statement that changes rows",
        "DELETE FROM tide.levels; DELETE FROM tide.levels | This is not one statement",
        "INSERT INTO tide.levls VALUES (1) | Did you mean tide.levels?",
        "INSERT INTO tide.levels (id, levle) VALUES (1, 2) | There is no column levle. Did you mean level?",
        "INSERT INTO tide.levels (id, ID) VALUES (1, 2) | Column id gets two values",
        "INSERT INTO tide.levels VALUES (1, 2) | 5 columns get values, and the rows have 2",
        "INSERT INTO tide.levels (id, level) VALUES (1, 2), (3, 'x') | 'x'",
        "INSERT INTO tide.levels (id, gauge) VALUES (1, 'longer than eight') | gauge",
        "INSERT INTO tide.levels (gauge) VALUES ('a') | id",
        "INSERT INTO tide.levels (id, level) VALUES (1, 1000) | sound",
        "INSERT INTO tide.levels (id) VALUES (1), (2), (1) | 1",
        "INSERT INTO tide.levels (id, level) VALUES (1, 12345678) | does not fit DECIMAL(7, 1)",
        "INSERT INTO tide.levels (id, level) VALUES (4, 1 / 0) | division by zero",
        "UPDATE tide.levels SET tide.level = 1 | name it alone",
        "UPDATE tide.levels SET level = sum(level) | aggregate",
        "MERGE INTO tide.levels USING (VALUES (1), (2)) AS s (n) ON true WHEN MATCHED THEN UPDATE SET level = n | would be changed twice, because more than one row of the source matches it: id 9",
        "MERGE INTO tide.levels AS t USING (VALUES (1)) AS s (n) ON t.id = n WHEN NOT MATCHED THEN DELETE | can only be inserted",
        "MERGE INTO tide.levels AS t USING (VALUES (1)) AS s (n) ON t.id = n WHEN MATCHED THEN INSERT VALUES (1) | can be updated or deleted",
        "MERGE INTO tide.levels AS t USING (VALUES (1)) AS s (n) ON t.id = n WHEN NOT MATCHED THEN INSERT (id) VALUES (n, 2) | 1 columns get values, and there are 2 values",
        "MERGE INTO tide.levels AS t USING (VALUES (1)) AS s (n) ON t.id = m WHEN MATCHED THEN DELETE | m",
        "MERGE INTO tide.levels AS t USING (VALUES (1)) AS s (n) ON t.id = n WHEN NOT MATCHED THEN INSERT (id, level) VALUES (n, 1000) | sound",
        "MERGE INTO tide.levels AS t USING (VALUES (8)) AS s (n) ON t.id = n WHEN NOT MATCHED THEN INSERT (id) VALUES (9) | id",
        "MERGE INTO tide.levels AS t USING (VALUES (9)) AS s (n) ON t.id = n WHEN MATCHED THEN UPDATE SET level = 1 / (n - 9) | division by zero",
        "UPDATE tide.levels SET level = (SELECT n FROM (VALUES (1), (2)) AS s (n)) | more than one",
        "TRUNCATE TABLE tide.levls | Did you mean tide.levels?",
        "INSERT INTO tide.levels DEFAULT VALUES | id",
        "UPDATE tide.levels SET lvl = 1 | There is no column lvl",
        "UPDATE tide.levels SET level = 1, level = 2 | level",
        "UPDATE tide.levels SET level = 5000 WHERE id = 9 | sound",
        "UPDATE tide.levels SET id = NULL | id",
        "DELETE FROM tide.levels WHERE lvl > 1 | lvl",
        "DELETE FROM tide.levels WHERE level / 0 > 1 | division by zero",
        "INSERT INTO tide.levels (id) SELECT id FROM nowhere.at_all | There is no table nowhere.at_all"
      })
  void whatIsWrongIsToldAndChangesNothing(String text, String told) {
    report("INSERT INTO tide.levels (id, level) VALUES (9, 1)");
    long version = lake.table("tide.levels").now().version();

    assertThatThrownBy(() -> lake.execute(text))
        .isInstanceOf(YsteronException.class)
        .hasMessageContaining(told);

    assertThat(lake.table("tide.levels").now().version()).isEqualTo(version);
    assertThat(rows("SELECT id, level FROM tide.levels")).containsExactly("[9, 1.0]");
  }

  /** What an INSERT has read conflicts with what another adds to it; it is carried out again. */
  @Test
  void anInsertThatMeetsAnotherCommitReadsAgain() throws Exception {
    report("INSERT INTO tide.levels (id, level) VALUES (1, 1)");
    Thread[] writers = new Thread[3];
    for (int w = 0; w < writers.length; w++) {
      writers[w] =
          new Thread(
              () -> {
                for (int i = 0; i < 4; i++) {
                  lake.execute(
                      "INSERT INTO tide.levels (id, level) SELECT max(id) + 1, count(*) FROM tide.levels");
                }
              });
      writers[w].start();
    }
    for (Thread writer : writers) {
      writer.join();
    }

    assertThat(rows("SELECT count(*), max(id), sum(level) FROM tide.levels"))
        .containsExactly("[13, 13, 79.0]");
  }

  @Test
  void aParameterIsNothingButAValue() {
    report("INSERT INTO tide.levels (id, gauge) VALUES (1, ?)", "a' OR 1");

    assertThat(report("DELETE FROM tide.levels WHERE gauge = ?", "' OR '1' = '1").isNothing())
        .isTrue();
    assertThatThrownBy(() -> lake.execute("DELETE FROM tide.levels WHERE id = ?"))
        .isInstanceOf(InvalidInputException.class);
  }
}
