package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.Lake;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.ConflictException;
import org.ysteron.error.YsteronException;

/** Statements one after the other: definitions, transactions, what holds for a session. */
class SqlSessionTest {
  @TempDir Path directory;
  private Lake lake;
  private SqlSession session;

  @BeforeEach
  void create() {
    lake = Lake.create(directory.resolve("lake"));
    session = new SqlSession(lake);
    does(
        "CREATE TABLE tide.levels (id BIGINT PRIMARY KEY, gauge VARCHAR(8) NOT NULL DEFAULT 'ORR',"
            + " level DECIMAL(7, 1) CONSTRAINT sound CHECK (level < 900) COMMENT 'above datum',"
            + " at_time TIMESTAMP WITH TIME ZONE, CHECK (id > 0))"
            + " LAYOUT (LIST gauge, SORT id DESC) OPTIONS (\"file.bytes\" '1000000')");
  }

  @AfterEach
  void close() {
    session.close();
    lake.close();
  }

  private SqlResult does(String text, Object... parameters) {
    return session.execute(text, Arrays.asList(parameters));
  }

  private List<String> rows(SqlSession of, String query) {
    SqlResult.Rows result = (SqlResult.Rows) of.execute(query, List.of());
    try (Results<Row> rows = result.query().rows()) {
      return rows.stream().map(row -> Arrays.toString(row.values())).toList();
    }
  }

  private List<String> rows(String query) {
    return rows(session, query);
  }

  @Test
  void aTableIsDefinedWithAllThatItCanHave() {
    assertThat(lake.table("tide.levels").schema().toString().replaceAll("\\s+", " "))
        .isEqualTo(
            "id BIGINT NOT NULL, gauge VARCHAR(8) NOT NULL DEFAULT 'ORR', level DECIMAL(7, 1), at_time TIMESTAMP WITH TIME ZONE, PRIMARY KEY (id)");
    assertThat(lake.table("tide.levels").schema().find("level").comment()).isEqualTo("above datum");
    assertThat(lake.table("tide.levels").checks().toString())
        .isEqualTo("[CONSTRAINT sound CHECK (level < 900), CONSTRAINT check1 CHECK (id > 0)]");
    assertThat(lake.table("tide.levels").layout().toString())
        .isEqualTo("list gauge; sorted by id descending");
    assertThat(lake.table("tide.levels").settings().number("file.bytes")).isEqualTo(1_000_000);
    assertThat(lake.table("tide.levels").now().version()).isZero();
    assertThat(lake.commits(1).get(0).statement()).startsWith("CREATE TABLE tide.levels");
  }

  @Test
  void definitionsChangeTablesAsTheToolDoes() {
    does(
        "ALTER TABLE tide.levels ADD COLUMN note VARCHAR AFTER id, ALTER level SET DATA TYPE DECIMAL(9, 2), LAYOUT (HASH id INTO 4), OPTIONS (SET \"file.bytes\" '2000000')");
    assertThat(lake.table("tide.levels").layout().toString()).isEqualTo("hash id into 4");
    assertThat(lake.table("tide.levels").settings().number("file.bytes")).isEqualTo(2_000_000);

    does(
        "ALTER TABLE tide.levels LAYOUT NONE, OPTIONS (DROP \"file.bytes\"), DROP CONSTRAINT sound");
    assertThat(lake.table("tide.levels").layout().toString()).isEqualTo("no partitions");

    does("COMMENT ON COLUMN tide.levels.note IS 'free text'");
    assertThat(lake.table("tide.levels").schema().find("note").comment()).isEqualTo("free text");
    does("COMMENT ON COLUMN tide.levels.note IS NULL");
    assertThat(lake.table("tide.levels").schema().find("note").comment()).isEmpty();

    does("ALTER TABLE tide.levels RENAME TO tide.heights");
    assertThat(lake.findTable("tide.levels")).isEmpty();
    does("CREATE TABLE IF NOT EXISTS tide.heights (x INTEGER)");
    does("DROP TABLE tide.heights");
    does("DROP TABLE IF EXISTS tide.heights");
    assertThat(lake.tables()).isEmpty();
  }

  @Test
  void aTableIsMadeOfAQuery() {
    does("INSERT INTO tide.levels (id, level) VALUES (1, 10), (2, 20)");

    does(
        "CREATE TABLE tide.sums LAYOUT (SORT gauge) AS SELECT gauge, sum(level) AS total, count(*) AS n FROM tide.levels GROUP BY gauge");

    assertThat(rows("SELECT * FROM tide.sums")).containsExactly("[ORR, 30.0, 2]");
    assertThat(lake.table("tide.sums").now().version()).isZero();
    does(
        "CREATE TABLE tide.named (g VARCHAR, n INTEGER NOT NULL) AS SELECT gauge, n FROM tide.sums");
    assertThat(rows("SELECT * FROM tide.named")).containsExactly("[ORR, 2]");
  }

  @Test
  void aTransactionIsOneCommitAndSeesItself() {
    long before = lake.now().commit().entry();

    does("START TRANSACTION");
    does("CREATE TABLE tide.notes (id BIGINT, note VARCHAR)");
    does("INSERT INTO tide.notes VALUES (1, 'a'), (?, 'b')", 2);
    does("INSERT INTO tide.levels (id, level) SELECT id, id * 10 FROM tide.notes");
    does("ALTER TABLE tide.notes ADD COLUMN more INTEGER DEFAULT 7");
    does("UPDATE tide.levels SET level = level + (SELECT max(more) FROM tide.notes)");
    assertThat(rows("SELECT id, level FROM tide.levels ORDER BY id"))
        .containsExactly("[1, 17.0]", "[2, 27.0]");
    assertThat(rows("SELECT count(*), min(id), max(level) FROM tide.levels"))
        .containsExactly("[2, 1, 27.0]");
    does(
        "MERGE INTO tide.levels AS t USING tide.notes AS n ON t.id = n.id WHEN MATCHED AND n.note = 'a' THEN DELETE WHEN MATCHED THEN UPDATE SET gauge = n.note");
    assertThat(rows(new SqlSession(lake), "SELECT count(*) FROM tide.levels"))
        .containsExactly("[0]");
    assertThat(does("COMMIT WORK COMMENT 'all of it'")).isEqualTo(new SqlResult.Done("Committed."));

    assertThat(lake.now().commit().entry()).isEqualTo(before + 1);
    assertThat(rows("SELECT id, gauge, level FROM tide.levels")).containsExactly("[2, b, 27.0]");
    assertThat(lake.commits(1).get(0).note()).isEqualTo("all of it");
    assertThat(lake.commits(1).get(0).statement())
        .startsWith("CREATE TABLE tide.notes")
        .contains("VALUES (1, 'a'), (?, 'b');\nINSERT INTO tide.levels")
        .endsWith("gauge = n.note");
  }

  @Test
  void whatFailsInATransactionLeavesItAsItWas() {
    does("INSERT INTO tide.levels (id, level) VALUES (1, 10)");
    does("START TRANSACTION");
    does("INSERT INTO tide.levels (id, level) VALUES (2, 20)");
    for (String wrong :
        List.of(
            "INSERT INTO tide.levels (id, level) SELECT n, 100 / (n - 5) FROM (VALUES (3), (4), (5)) AS s (n)",
            "INSERT INTO tide.levels (id, level) VALUES (3, 1), (3, 2)",
            "UPDATE tide.levels SET level = 5000",
            "UPDATE tide.levels SET id = (SELECT max(id) FROM tide.levels)",
            "MERGE INTO tide.levels AS t USING (VALUES (1, 5), (2, 5), (3, 5000)) AS s (id, n) ON t.id = s.id WHEN MATCHED THEN UPDATE SET level = n WHEN NOT MATCHED THEN INSERT (id, level) VALUES (s.id, n)",
            "CREATE TABLE tide.levels (x INTEGER)",
            "ALTER TABLE tide.levels ADD CONSTRAINT no CHECK (level < 1)",
            "SELECT nothing FROM tide.levels",
            "SAVEPOINT a",
            "ROLLBACK TO SAVEPOINT a")) {
      assertThatThrownBy(() -> does(wrong)).isInstanceOf(YsteronException.class);
      assertThat(rows("SELECT id, level FROM tide.levels ORDER BY id"))
          .as(wrong)
          .containsExactly("[1, 10.0]", "[2, 20.0]");
    }
    does("COMMIT");
    assertThat(rows("SELECT id, level FROM tide.levels ORDER BY id"))
        .containsExactly("[1, 10.0]", "[2, 20.0]");
  }

  @Test
  void aTransactionThatIsRolledBackLeavesNothing() {
    does("START TRANSACTION ISOLATION LEVEL SNAPSHOT");
    does("INSERT INTO tide.levels (id) VALUES (2)");
    does("DROP TABLE tide.levels");
    assertThatThrownBy(() -> does("SELECT * FROM tide.levels")).hasMessageContaining("tide.levels");
    does("ROLLBACK");

    assertThat(rows("SELECT * FROM tide.levels")).isEmpty();
    assertThatThrownBy(() -> does("COMMIT")).hasMessageContaining("no transaction to COMMIT");
    assertThatThrownBy(() -> does("ROLLBACK WORK")).hasMessageContaining("no transaction");
  }

  @Test
  void aReadThatOthersChangedIsAConflictUnlessOnASnapshot() {
    does("INSERT INTO tide.levels (id, level) VALUES (1, 10)");
    SqlSession other = new SqlSession(lake);
    for (String level : List.of("SERIALIZABLE", "REPEATABLE READ")) {
      other.execute("START TRANSACTION ISOLATION LEVEL " + level, List.of());
      rows(other, "SELECT sum(level) FROM tide.levels");
      other.execute("CREATE TABLE tide.seen_" + level.charAt(0) + " (id INTEGER)", List.of());
      does("UPDATE tide.levels SET level = level + 1");
      if (level.startsWith("S")) {
        assertThatThrownBy(() -> other.execute("COMMIT", List.of()))
            .isInstanceOf(ConflictException.class);
      } else {
        other.execute("COMMIT", List.of());
      }
      assertThat(other.inTransaction()).isFalse();
    }
  }

  @Test
  void aSessionHasANamespaceViewsAndAPointInTime() {
    session.setSchema(Optional.of("tide"));
    does("INSERT INTO levels (id, level) VALUES (1, 10)");
    does("CREATE TEMPORARY VIEW high AS SELECT * FROM levels WHERE level > 5");
    does("SET SYSTEM_TIME TO lake.entry(1)");
    assertThat(rows("SELECT count(*) FROM high")).containsExactly("[0]");
    assertThatThrownBy(() -> does("DELETE FROM levels")).hasMessageContaining("the past");
    does("SET SYSTEM_TIME DEFAULT");
    assertThat(rows("SELECT count(*) FROM high")).containsExactly("[1]");
    assertThatThrownBy(() -> does("CREATE TEMPORARY VIEW high AS SELECT 1 AS x"))
        .hasMessageContaining("CREATE OR REPLACE");
    does("CREATE OR REPLACE TEMPORARY VIEW high AS SELECT 1 AS x");
    assertThat(rows("SELECT x FROM high")).containsExactly("[1]");
    assertThat(rows("SELECT x FROM high")).containsExactly("[1]");
    does(
        "ALTER TABLE levels ADD COLUMN c INTEGER; COMMENT ON COLUMN levels.c IS 'x'; CREATE TABLE other (a INTEGER)");
    assertThat(lake.findTable("tide.other")).isPresent();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      value = {
        "CREATE TABLE tide.t | A table has columns",
        "CREATE TABLE tide.t (a INTEGER, a DATE) | Two columns have the name",
        "CREATE TABLE tide.t (a INTEGER UNIQUE) | no UNIQUE constraints",
        "CREATE TABLE tide.t (a INTEGER, PRIMARY KEY (a), b INTEGER PRIMARY KEY) | one primary key",
        "CREATE TABLE tide.t (a INTEGER DEFAULT 1 DEFAULT 2) | said of column a twice",
        "CREATE TABLE tide.t (a.b INTEGER) | A column has one name",
        "CREATE TABLE tide.t (a INTEGER) LAYOUT (LIST b) | b",
        "CREATE TABLE tide.t (a INTEGER) LAYOUT (RANGE a EVERY 1 MONTH) | has no",
        "CREATE TABLE tide.t (a INTEGER) OPTIONS (nothing 'x') | nothing",
        "CREATE TABLE tide.t (a INTEGER) OPTIONS (\"file.bytes\" '1000000', \"file.bytes\" '2000000') | given twice",
        "CREATE TABLE tide.levels (a INTEGER) | already exists",
        "CREATE TABLE nonamespace (a INTEGER) | nonamespace",
        "CREATE TABLE tide.t AS SELECT 1 AS a, 2 AS a | a",
        "CREATE TABLE tide.t (a INTEGER) AS SELECT 1, 2 | 1 columns get values, and the rows have 2",
        "ALTER TABLE tide.levels ADD COLUMN x INTEGER, RENAME TO tide.y | a statement of its own",
        "ALTER TABLE tide.levels DROP nothing | There is no column nothing",
        "ALTER TABLE tide.levels OPTIONS (nothing 'x') | nothing",
        "ALTER TABLE tide.nothing DROP x | tide.nothing",
        "DROP TABLE tide.nothing | tide.nothing",
        "COMMENT ON COLUMN tide.levels IS 'x' | Name the table and the column",
        "COMMENT ON COLUMN tide.levels.x IS 'x' | There is no column x",
        "START TRANSACTION; START TRANSACTION | has not ended",
        "START TRANSACTION; ALTER TABLE tide.levels RENAME TO tide.y | outside of a transaction",
        "START TRANSACTION READ ONLY; DELETE FROM tide.levels | read-only",
        "GRANT ALL | SQL text is wrong",
        "DESCRIBE TABLE tide.levels | not there"
      })
  void whatIsWrongIsTold(String text, String told) {
    assertThatThrownBy(() -> does(text))
        .isInstanceOf(YsteronException.class)
        .hasMessageContaining(told);
    assertThat(lake.tables()).hasSize(1);
  }
}
