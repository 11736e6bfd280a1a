package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.cli.Tool.Answer;

/** {@code ysteron query}, and what it says of queries that are wrong. */
class QueryCommandTest {
  @TempDir Path directory;
  private String lake;

  @BeforeEach
  void create() throws IOException {
    lake = directory.resolve("lake").toString();
    Tool.run("create-lake", lake);
    Path file = directory.resolve("a.csv");
    Files.writeString(file, "gauge_id,level_cm\nORR-01,5\nORR-02,7\nORR-01,9\n");
    on("create-table", "tide.readings", "gauge_id VARCHAR(12), level_cm DECIMAL(7, 1)");
    on("load", "tide.readings", file.toString());
  }

  private Answer on(String... words) {
    String[] all = new String[words.length + 2];
    System.arraycopy(words, 0, all, 0, words.length);
    all[words.length] = "--lake";
    all[words.length + 1] = lake;
    return Tool.run(all);
  }

  @Test
  void groupsAreCountedAndOrdered() {
    Answer answer =
        on(
            "query",
            "SELECT gauge_id, count(*), max(level_cm) AS highest FROM tide.readings GROUP BY gauge_id ORDER BY 1",
            "--format",
            "csv");

    assertThat(answer.err()).isEmpty();
    assertThat(answer.out().lines())
        .containsExactly("gauge_id,count(*),highest", "ORR-01,2,9.0", "ORR-02,1,7.0");
  }

  @Test
  void aNamespaceCanBeGivenOnce() {
    assertThat(on("query", "SELECT count(*) FROM readings", "--schema", "tide").out())
        .contains("3");
  }

  @Test
  void whatIsWrongIsShownAtItsPlaceWithNearNames() {
    assertThat(on("query", "SELECT levl_cm FROM tide.readings").err())
        .contains("Did you mean level_cm?")
        .contains("\n         ^");
    assertThat(on("query", "SELECT 1 FROM tide.reading").err())
        .contains("There is no table tide.reading. Did you mean tide.readings?");
    assertThat(on("query", "SELECT level_cm / 0 FROM tide.readings").err())
        .contains("division by zero");
    assertThat(on("query", "DELETE FROM tide.readings").err()).contains("This is not a query.");
    assertThat(on("query", "SELECT (SELECT level_cm FROM tide.readings) FROM tide.readings").err())
        .contains("more than one row");
    assertThat(
            on("query", "SELECT * FROM tide.readings FOR SYSTEM_TIME AS OF lake.version(9)").err())
        .contains("has no version 9");
  }

  @Test
  void rowsGoToAParquetFile() {
    String file = directory.resolve("rows.parquet").toString();

    Answer answer =
        on("query", "SELECT gauge_id, level_cm, level_cm FROM tide.readings", "-o", file);

    assertThat(answer.out()).contains("Wrote 3 rows to " + file + ".");
    assertThat(Path.of(file)).exists();
    assertThat(on("query", "SELECT 1", "-o", file).err()).contains("already exists");
  }

  @Test
  void aPlanSaysWhatIsReadAndWhatWasDone() {
    String query =
        "SELECT gauge_id, count(*) FROM tide.readings WHERE level_cm > 6 GROUP BY gauge_id";

    assertThat(on("query", query, "--plan").out())
        .contains("group by gauge_id: count(*)")
        .contains("scan tide.readings version 1: gauge_id")
        .contains("where CAST(level_cm AS DECIMAL(11, 1)) > 6.0")
        .contains("reads 1 of 1 file");
    assertThat(on("query", "EXPLAIN ANALYZE " + query, "--format", "csv").out().lines())
        .anySatisfy(line -> assertThat(line).matches("\\d+,2,.*group by gauge_id: count.*"));
  }

  @Test
  void settingsAndViewsStandBeforeAQuery() {
    on("bookmark", "create", "start");
    on("delete", "tide.readings", "--where", "level_cm = 5");

    String query =
        "CREATE TEMPORARY VIEW v AS SELECT level_cm FROM tide.readings; SELECT count(*) FROM v";
    assertThat(on("query", query, "--format", "csv").out().lines()).endsWith("2");
    assertThat(
            on("query", "SET SYSTEM_TIME TO lake.entry(2);" + query, "--format", "csv")
                .out()
                .lines())
        .endsWith("3");
  }
}
