package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The commands that alter tables and take what does not fit. */
class EvolveTest {
  private static final String TABLE = "tide.readings";

  @TempDir Path directory;
  private String lake;

  private String run(int expected, String... arguments) {
    Tool.Answer answer =
        arguments[0].equals("create-lake")
            ? Tool.run(arguments)
            : new Tool(Path.of(lake)).on(arguments);
    assertThat(answer.code()).as("%s", answer).isEqualTo(expected);
    return expected == 0 ? answer.out() : answer.err();
  }

  private String ok(String... arguments) {
    return run(0, arguments);
  }

  private String file(String name, String content) throws IOException {
    Path path = directory.resolve(name);
    Files.writeString(path, content);
    return path.toString();
  }

  @BeforeEach
  void makeATable() throws IOException {
    lake = directory.resolve("lake").toString();
    ok("create-lake", lake);
    ok(
        "create-table",
        TABLE,
        "gauge_id VARCHAR(12) NOT NULL, taken_on DATE, level INTEGER, PRIMARY KEY (gauge_id)",
        "--partition",
        "range taken_on every 1 month",
        "--set",
        "drift=lenient");
    String csv = file("a.csv", "gauge_id,taken_on,level\nA,2026-01-05,5\nB,2026-02-05,7\n");
    ok("load", TABLE, csv);
  }

  @Test
  void changesAreColouredOnATerminal() {
    ok("alter", TABLE, "ADD COLUMN a INTEGER, DROP COLUMN level");
    System.setProperty("picocli.ansi", "true");
    try {
      assertThat(ok("compare", TABLE)).contains("\u001b[32m+", "\u001b[31m-").doesNotContain("\\u");
    } finally {
      System.clearProperty("picocli.ansi");
    }
  }

  @Test
  void aTableIsAltered() {
    assertThat(
            ok(
                "alter",
                TABLE,
                "ADD COLUMN tags VARCHAR ARRAY FIRST, RENAME level TO level_cm,"
                    + " ALTER level_cm SET DATA TYPE BIGINT, ADD CONSTRAINT c CHECK (level_cm < 99)",
                "--set",
                "drift=grow"))
        .isEqualTo("Altered tide.readings: version 2. No data file was touched.\n");
    assertThat(ok("schema", TABLE))
        .contains("level_cm  BIGINT")
        .contains("CONSTRAINT c CHECK (level_cm < 99)")
        .contains("Schema 1; layout 0: range taken_on every 1 month.");
    assertThat(ok("scan", TABLE, "--at", "1", "--newest-schema", "--format", "csv"))
        .startsWith("tags,gauge_id,taken_on,level_cm\n");
    assertThat(ok("compare", TABLE))
        .contains("~ rename level to level_cm", "+ add tags VARCHAR ARRAY first", "+ add check c");
    assertThat(ok("compare", TABLE, "--from", "2", "--to", "1", "--format", "json"))
        .contains("\"mark\":\"-\",\"alteration\":\"drop tags\"");
    assertThat(ok("compare", TABLE, TABLE)).contains("There are no differences.");
    assertThat(run(1, "alter", TABLE)).contains("There is nothing to change");
    assertThat(run(1, "alter", TABLE, "--set", "drift=loose"))
        .contains(
            "The setting drift cannot be 'loose'; it must be one of strict, lenient, grow, set_aside, grow_or_set_aside.");
    assertThat(run(1, "alter", TABLE, "DROP gauge_id"))
        .contains("Column gauge_id is in the primary key")
        .contains("DROP gauge_id\n  ^");
  }

  @Test
  void filesThatDoNotFitAreTakenByRule() throws IOException {
    String more =
        file("b.csv", "Gauge_ID,taken_on,salinity,ok,code\nC,2026-02-06,34.5,true,007\nD,,35,,x\n");
    assertThat(run(1, "load", TABLE, more, "--drift", "strict"))
        .contains("line 1: the table has no column Gauge_ID, salinity, ok, code")
        .contains("And column gauge_id is missing");
    assertThat(run(1, "load", TABLE, more, "--ignore-case"))
        .contains("b.csv, line 2: there is no column salinity; there is no column ok");
    ok("load", TABLE, more, "--drift", "grow", "--ignore-case");
    assertThat(ok("schema", TABLE))
        .contains("salinity  DOUBLE PRECISION", "ok        BOOLEAN", "code      VARCHAR");
    String odd =
        file(
            "c.jsonl",
            """
            {"gauge_id": "E", "wave": {"m": 1.5}}
            {"gauge_id": "F", "wave": {"m": "high"}, "x": 1}
            """);
    ok("load", TABLE, odd, "--drift", "set_aside");
    assertThat(ok("leftovers", TABLE)).contains("wave.m     2  DOUBLE PRECISION × 1, VARCHAR × 1");
    assertThat(ok("lift", TABLE, "wave.m AS wave_m REAL", "x"))
        .contains("Lifted 2 keys of tide.readings into columns, in 2 rows: version 4.")
        .contains("1 value of wave.m does not fit and stays in the leftovers, such as \"high\".");
    assertThat(ok("scan", TABLE, "--where", "wave_m = 1.5", "--count")).contains("1");
    assertThat(run(1, "lift", TABLE, "y")).contains("have no key y");
    assertThat(run(2, "load", TABLE, odd, "--drift", "loose")).contains("--drift");
  }

  @Test
  void filesAreLaidOutAnew() throws IOException {
    assertThat(ok("files", TABLE)).contains("2026-01", "2026-02");
    assertThat(ok("layout", TABLE, "-p", "hash gauge_id into 2", "--sort", "taken_on descending"))
        .contains("current  hash gauge_id into 2; sorted by taken_on descending");
    ok("load", TABLE, file("b.csv", "gauge_id,taken_on\nC,2026-02-06\nD,2026-02-07\n"));
    assertThat(ok("explain", TABLE, "--where", "taken_on = '2026-02-07' AND gauge_id = 'D'"))
        .contains("rules")
        .contains("range taken_on every 1 month");
    assertThat(ok("rewrite", TABLE, "--older-layouts", "--where", "taken_on < '2026-02-01'"))
        .contains("Moved the rows of 1 file to 1 file");
    assertThat(ok("rewrite", TABLE, "--where", "taken_on > '2030-01-01'"))
        .isEqualTo("No file had to be moved.\n");
    assertThat(ok("layout", TABLE, "--none")).contains("no partitions");
    assertThat(run(1, "layout", TABLE, "-p", "range gauge_id every 5"))
        .contains("The partition rule \"range gauge_id every 5\" cannot be used");
    assertThat(ok("files", TABLE, "--format", "json")).contains("\"partition\":\"");
  }

  @Test
  void loadsAndUpsertsGrowTheTableAndSaySo() throws IOException {
    String csv = file("b.csv", "gauge_id,level,zip,Wind\nC,3000000000,02134,4.5\nD,1,12345,\n");
    String json = file("c.jsonl", "{\"gauge_id\": \"E\", \"zip\": 7, \"wind\": 12}\n");
    assertThat(ok("load", TABLE, csv, json, "--drift", "grow", "--ignore-case"))
        .isEqualTo(
            """
            Widened column level from INTEGER to BIGINT.
            Added column zip VARCHAR.
            Added column Wind DOUBLE PRECISION.
            Wind and wind differ by case only and are the same column.
            Appended 3 rows to tide.readings: version 2, entry 3.
            """);
    String late = file("d.csv", "gauge_id,level,gust\nC,1,high\nF,2,\n");
    assertThat(run(1, "upsert", TABLE, late)).contains("there is no column gust");
    assertThat(ok("upsert", TABLE, late, "--drift", "grow"))
        .startsWith("Added column gust VARCHAR.\n1 row of tide.readings matched: 1 updated");
    String wrong =
        file("e.jsonl", "{\"gauge_id\": \"G\"}\n{\"gauge_id\": \"H\", \"level\": \"x\"}\n");
    assertThat(run(1, "upsert", TABLE, wrong, "--drift", "grow"))
        .contains("e.jsonl, line 2: column level (BIGINT): 'x' is not a value of BIGINT");
    assertThat(ok("merge", TABLE, wrong, "--drift", "grow_or_set_aside", "--unmatched", "take"))
        .startsWith("Added column leftovers JSON.\n0 rows of tide.readings matched");
    assertThat(ok("scan", TABLE, "--where", "gauge_id = 'H'", "--columns", "level,leftovers"))
        .contains("{\"level\":\"x\"}");
  }
}
