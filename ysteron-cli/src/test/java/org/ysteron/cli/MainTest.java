package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.cli.Tool.Answer;
import org.ysteron.data.Json;

class MainTest {
  @TempDir Path directory;
  private String lake;

  /** Runs a command on the lake. */
  private Answer on(String... arguments) {
    return new Tool(Path.of(lake)).on(arguments);
  }

  private String ok(String... arguments) {
    return new Tool(Path.of(lake)).ok(arguments);
  }

  private String file(String name, String content) throws IOException {
    Path path = directory.resolve(name);
    Files.writeString(path, content);
    return path.toString();
  }

  @BeforeEach
  void makeALakeWithATable() throws IOException {
    lake = directory.resolve("lake").toString();
    assertThat(Tool.run("create-lake", lake).out()).startsWith("Created lake ");
    assertThat(
            ok(
                "create-table",
                "tide.readings",
                "gauge_id VARCHAR(12) NOT NULL, taken_at TIMESTAMP WITH TIME ZONE, "
                    + "level_cm DECIMAL(7, 1), tags VARCHAR ARRAY, PRIMARY KEY (gauge_id)"))
        .isEqualTo("Created table tide.readings with 4 columns.\n");
    String csv =
        file(
            "a.csv",
            """
            gauge_id,taken_at,level_cm
            ORR-01,2026-03-01T12:00:00Z,412.5
            ORR-02,2026-03-01T12:10:00Z,
            """);
    assertThat(ok("load", "tide.readings", csv, "--note", "first", "--author", "ada"))
        .isEqualTo("Appended 2 rows to tide.readings: version 1, entry 2.\n");
    String json = file("b.jsonl", "{\"gauge_id\": \"ORR-03\", \"tags\": [\"x\", null]}\n");
    assertThat(ok("load", "tide.readings", json)).contains("1 row to tide.readings: version 2");
  }

  @Test
  void rowsAreAlignedForPeople() {
    assertThat(ok("scan", "tide.readings"))
        .isEqualTo(
            """
            gauge_id  taken_at              level_cm  tags
            ORR-01    2026-03-01T12:00:00Z     412.5  –
            ORR-02    2026-03-01T12:10:00Z         –  –
            ORR-03    –                            –  ["x",null]
            """);
    assertThat(ok("scan", "tide.readings", "-c", "level_cm,gauge_id", "-n", "1"))
        .isEqualTo("level_cm  gauge_id\n   412.5  ORR-01\n");
    assertThat(ok("scan", "tide.readings", "-w", "level_cm IS NULL", "--count"))
        .isEqualTo("rows\n   2\n");
  }

  @Test
  void rowsArePrintedForScripts() {
    String json = ok("scan", "tide.readings", "--format", "json");
    List<?> rows = (List<?>) Json.parse(json);
    assertThat(rows).hasSize(3);
    assertThat(((Map<?, ?>) rows.get(2)).get("tags")).hasToString("[x, null]");
    assertThat(ok("scan", "tide.readings", "--format", "csv", "-c", "gauge_id,level_cm"))
        .isEqualTo("gauge_id,level_cm\nORR-01,412.5\nORR-02,\nORR-03,\n");
    assertThat(ok("scan", "tide.readings", "-w", "FALSE", "--format", "json")).isEqualTo("[]\n");
    assertThat(ok("scan", "tide.readings", "-w", "FALSE", "--format", "csv", "-c", "gauge_id"))
        .isEqualTo("gauge_id\n");
  }

  @Test
  void standardInputIsLoaded() {
    InputStream before = System.in;
    try {
      System.setIn(
          new ByteArrayInputStream("gauge_id\nORR-08\nORR-09\n".getBytes(StandardCharsets.UTF_8)));
      assertThat(ok("load", "tide.readings", "-", "--kind", "csv")).startsWith("Appended 2 rows");
      System.setIn(new ByteArrayInputStream("{\"gauge_id\":7}".getBytes(StandardCharsets.UTF_8)));
      Answer wrong = on("upsert", "tide.readings", "-", "--kind", "json_lines");
      assertThat(wrong.err()).startsWith("error: standard input, line 1");
    } finally {
      System.setIn(before);
    }
    assertThat(on("load", "tide.readings", "-").err()).contains("Give --kind csv or --kind");
    assertThat(on("load", "tide.readings", "-", "-", "--kind", "csv").err())
        .contains("Standard input is given twice");
  }

  @Test
  void listingsSayHowManyThereAre() {
    assertThat(ok("history", "tide.readings", "-n", "2"))
        .endsWith("2 of 3 versions; --limit lists more.\n");
    assertThat(ok("files", "tide.readings", "-n", "1"))
        .endsWith("1 of 2 files; --limit lists more.\n");
    assertThat(ok("history", "tide.readings")).doesNotContain("--limit");
  }

  @Test
  void olderVersionsAreReadByNumberAndTime() {
    assertThat(ok("scan", "tide.readings", "--at", "1", "--count")).contains(" 2\n");
    assertThat(ok("scan", "tide.readings", "--at", "PT0S", "--count")).contains(" 3\n");
    Answer early = on("scan", "tide.readings", "--at", "2001-01-01T00:00:00Z");
    assertThat(early.code()).isEqualTo(1);
    assertThat(early.err()).contains("did not exist: its first version, 0, is from 20");
    assertThat(on("scan", "tide.readings", "--at", "P9000D").code()).isEqualTo(1);
    assertThat(on("scan", "tide.readings", "--at", "2001-01-01T12:00[Europe/Oslo]").err())
        .contains("At 2001-01-01T11:00:00Z table");
    assertThat(on("scan", "tide.readings", "--at", "2001-07-01", "--zone", "Europe/Oslo").err())
        .contains("At 2001-06-30T22:00:00Z table");
    Answer none = on("scan", "tide.readings", "--at", "9");
    assertThat(none.err()).contains("has no version 9: its versions are 0 to 2");
  }

  @Test
  void historyTellsWhoDidWhat() {
    assertThat(ok("history", "tide.readings").lines().toList())
        .hasSize(4)
        .satisfies(lines -> assertThat(lines.get(2)).contains("append", "ada", "first"));
    List<?> versions = (List<?>) Json.parse(ok("history", "tide.readings", "--format", "json"));
    Map<?, ?> create = (Map<?, ?>) versions.get(2);
    assertThat(create.get("operation")).isEqualTo("create");
    assertThat((String) create.get("statement")).startsWith("CREATE TABLE tide.readings (gauge_id");
    assertThat((String) create.get("program")).startsWith("ysteron ");
    assertThat(ok("history", "tide.readings", "-n", "1").lines()).hasSize(3);
  }

  @Test
  void schemaFilesAndTablesAreListed() {
    assertThat(ok("schema", "tide.readings"))
        .contains("gauge_id  VARCHAR(12)               NOT NULL  1");
    assertThat(ok("tables")).contains("tide.readings        2     3      2");
    assertThat(ok("files", "tide.readings", "--at", "1").lines()).hasSize(2);
    assertThat(ok("files", "tide.readings", "--ranges"))
        .contains("level_cm", "[412.5, 412.5] 1 null");
    Map<?, ?> file =
        (Map<?, ?>) ((List<?>) Json.parse(ok("files", "tide.readings", "--format", "json"))).get(0);
    assertThat((String) file.get("name")).startsWith("data/").endsWith(".parquet");
    assertThat(directory.resolve("lake").resolve((String) file.get("name"))).exists();
  }

  @Test
  void theWholeLakeIsListedAsItWas() {
    List<?> versions = (List<?>) Json.parse(ok("history", "tide.readings", "--format", "json"));
    String afterFirst = (String) ((Map<?, ?>) versions.get(1)).get("time");
    assertThat(ok("tables", "--at", afterFirst)).contains("tide.readings        1     2      1");
    Answer early = on("tables", "--at", "2001-01-01");
    assertThat(early.code()).isEqualTo(1);
    assertThat(early.err()).contains("there was no lake in", "its first entry is from 20");
    assertThat(on("tables", "--at", "7").code()).isEqualTo(2);
  }

  @Test
  void explainTellsWhatIsSkippedAndWhy() {
    assertThat(ok("explain", "tide.readings", "-w", "gauge_id = 'ORR-03'"))
        .contains(
            "where gauge_id = 'ORR-03'",
            "files, by range      2        1     1",
            "Skipped by the range of gauge_id: 1 file.",
            "To read: 1 row in 1 file",
            "All rows match in 1 file; 0 files are filtered row by row");
    assertThat(ok("explain", "tide.readings", "--format", "csv")).contains("\nrow groups,");
  }

  @Test
  void tablesAreDroppedRenamedAndBroughtBack() {
    assertThat(ok("rename", "tide.readings", "tide.levels")).contains("Renamed tide.readings to");
    assertThat(ok("drop", "tide.levels")).contains("'ysteron bring-back tide.levels' undoes it");
    assertThat(ok("tables")).isEqualTo("The lake has no tables yet.\n");
    assertThat(ok("tables", "--dropped")).contains("tide.levels");
    assertThat(on("scan", "tide.levels").err()).contains("It was dropped. Bring it back first");
    assertThat(ok("bring-back", "tide.levels"))
        .isEqualTo("Brought tide.levels back with 3 rows.\n");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "scan tide.reading | Did you mean tide.readings?",
        "scan ../x | There is no table '../x'",
        "scan tide.readings -c levl_cm | Did you mean level_cm?",
        "rename tide.readings bad | 'bad' is not a table name",
        "create-table tide.readings a~INT | Table tide.readings already exists",
        "create-table t.x a~INTT | There is no type INTT",
        "create-table t.x a~INT --set file.byte=5 | Did you mean file.bytes?",
        "load tide.readings none.csv | File not found: none.csv",
        "load tide.readings x.xls | Use the extension .csv or .jsonl",
        "bring-back tide.readings | No table tide.readings was dropped"
      })
  void failuresAreOneClearErrorAndExitCode1(String command, String message) {
    String[] words = command.split(" ", -1);
    for (int i = 0; i < words.length; i++) {
      words[i] = words[i].replace('~', ' ');
    }
    Answer answer = on(words);
    assertThat(answer.code()).isEqualTo(1);
    assertThat(answer.err()).startsWith("error: ").contains(message);
    assertThat(answer.err()).doesNotContain("\tat ");
    assertThat(answer.out()).isEmpty();
    assertThat(ok("history", "tide.readings").lines()).hasSize(4);
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "scan",
        "scann",
        "scan tide.readings --limit x",
        "scan tide.readings --format xml",
        "scan tide.readings --colour",
        "scan tide.readings --at noon",
        "load tide.readings",
        "load tide.readings a.csv --kind tsv"
      })
  void wrongCallsAreExitCode2(String command) {
    Answer answer = on(command.split(" ", -1));
    assertThat(answer.code()).isEqualTo(2);
    assertThat(answer.err()).startsWith("error: ");
    assertThat(Tool.run().code()).isEqualTo(2);
  }

  @Test
  void aDirectoryThatIsNoLakeIsSaidToBeNone() throws IOException {
    Path empty = Files.createDirectory(directory.resolve("empty"));
    assertThat(Tool.run("tables", "-l", empty.toString()).err())
        .contains("There is no lake in " + empty + ": it has no ledger");
    assertThat(Tool.run("tables", "-l", directory.resolve("none").toString()).err())
        .contains("it is not a directory");
    assertThat(Tool.run("create-lake", lake).err())
        .contains("A lake already exists in " + lake + ".");
  }

  @Test
  void theTraceIsShownOnlyWhenAsked() {
    assertThat(on("scan", "x.y", "--trace").err()).contains("\tat org.ysteron.");
  }

  @Test
  void theCompletionScriptKnowsTheCommands() {
    Answer answer = Tool.run("completion");
    assertThat(answer.out()).contains("bring-back", "create-table", "complete -F");
    assertThat(Tool.run("--about").out()).startsWith("ysteron 0.1.0");
    assertThat(Tool.run("scan", "--help").out())
        .contains("Usage: ysteron scan", "--where=CONDITION");
  }

  @Test
  void aFileThatDoesNotFitBringsNothingIn() throws IOException {
    String broken = file("c.csv", "gauge_id,level_cm\nORR-09,1\nORR-10,ERR\n");
    Answer answer = on("load", "tide.readings", broken);
    assertThat(answer.err()).contains("c.csv, line 3: column level_cm (DECIMAL(7, 1)): 'ERR'");
    assertThat(ok("scan", "tide.readings", "--count")).contains(" 3\n");
    String unnamed = file("d.txt", "gauge_id\nORR-11\n");
    assertThat(ok("load", "tide.readings", unnamed, "--kind", "csv")).contains("version 3");
  }

  @Test
  void theDemoTellsItsWholeStory() {
    Path demo = directory.resolve("demo");
    Answer answer = Tool.run("demo", demo.toString());
    assertThat(answer.code()).isZero();
    assertThat(answer.out())
        .contains(
            "1. Create a lake",
            "tide.readings        4  23,040",
            "33. Drop a table",
            "Rewound tide.readings to version",
            "The first bulletin has ",
            "Nothing has changed since the last bulletin.",
            "  updated    72 rows at most",
            "all +12.0")
        .doesNotContain("NOT CONSISTENT")
        .contains("line 3: column level_cm (DECIMAL(7, 1)): 'ERR'")
        .contains("~ widen battery_mv to BIGINT", "Skipped by partition: ");
    assertThat(Tool.run("demo", demo.toString()).err()).contains("is not empty");
    assertThat(Tool.run("demo", demo.toString(), "--again").code()).isZero();
  }

  @Test
  void columnsThatAreTooWideAreShortened() throws IOException {
    ok("create-table", "t.wide", "a VARCHAR, b VARCHAR");
    ok("load", "t.wide", file("w.csv", "a,b\n" + "x".repeat(200) + ",line\u0007\n"));
    assertThat(ok("scan", "t.wide")).contains("x".repeat(59) + "…  line\\u0007");
    assertThat(Listing.bytes(3_500_000)).isEqualTo("3.3 MiB");
    assertThat(Listing.bytes(12)).isEqualTo("12 B");
    assertThat(Listing.count(1, "row", "rows")).isEqualTo("1 row");
  }

  @Test
  void rowsAreUpdatedDeletedUpsertedAndMerged() throws IOException {
    ok("create-table", "t.g", "id INTEGER, name VARCHAR, v INTEGER, PRIMARY KEY (id)");
    ok("load", "t.g", file("g.csv", "id,name,v\n1,a,1\n2,b,2\n3,c,3\n4,d,4\n5,e,5\n6,f,6\n"));
    assertThat(ok("update", "t.g", "--set", "v = v * 10", "--where", "id <= 1"))
        .startsWith("1 row of t.g matched: 1 updated, 0 deleted, 0 inserted: version 2,")
        .contains("Data files: 1 masked, 0 dropped, 0 rewritten, 1 written");
    assertThat(ok("update", "t.g", "-s", "name = 'a'", "-w", "id = 1", "--only-changed"))
        .contains("so there is no new version");
    String late =
        file("late.jsonl", "{\"id\":2,\"v\":22}\n{\"id\":7,\"v\":7}\n{\"id\":7,\"v\":77}\n");
    assertThat(on("upsert", "t.g", late).err())
        .contains("Rows 2 and 3 of the source have the same key");
    assertThat(ok("upsert", "t.g", late, "--last-wins", "--style", "rewrite"))
        .contains("1 updated, 0 deleted, 1 inserted");
    String register = file("register.csv", "id,name\n2,gone\n3,new\n9,nine\n");
    assertThat(
            ok(
                "merge",
                "t.g",
                register,
                "--matched",
                "delete if source.name = 'gone'",
                "--matched",
                "set name = name || '/' || source.name",
                "--unmatched",
                "take if name <> 'x'",
                "--not-in-source",
                "set v = 0 if id = 4"))
        .contains("2 updated, 1 deleted, 1 inserted");
    assertThat(ok("scan", "t.g", "--format", "csv").lines().skip(1).sorted())
        .containsExactly("1,a,10", "3,c/new,3", "4,d,0", "5,e,5", "6,f,6", "7,,77", "9,nine,");
    assertThat(ok("delete", "t.g", "--where", "v >= 5")).contains("4 deleted");
    assertThat(ok("history", "t.g")).contains("delete", "merge", "upsert", "update");
    assertThat(ok("files", "t.g")).contains("masked");
    assertThat(ok("delete", "t.g", "--all")).contains("3 deleted");
  }

  @Test
  void keysThatAreThereAreRefusedLeftOutOrListed() throws IOException {
    ok("create-table", "t.g", "id INTEGER, name VARCHAR, PRIMARY KEY (id)");
    String first = file("first.csv", "id,name\n1,a\n2,b\n");
    String second = file("second.csv", "id,name\n2,x\n3,y\n3,z\n");
    ok("load", "t.g", first);
    assertThat(on("load", "t.g", second).err())
        .contains("2 rows cannot be added to table t.g because their keys already exist")
        .contains("id = 2 (serial 1 in data file 0); id = 3 more than once in these rows");
    assertThat(ok("load", "t.g", second, "--skip-rejected"))
        .contains("Skipped 2 rows:")
        .contains("Appended 1 row to t.g: version 2");
    assertThat(ok("duplicates", "t.g", "--format", "json").replaceAll("\\s", "")).isEqualTo("[]");
    ok("alter", "t.g", "--set", "key.test=declared");
    ok("load", "t.g", first);
    assertThat(ok("duplicates", "t.g", "--format", "csv").lines())
        .containsExactlyInAnyOrder("id,serial,commit", "1,0,5", "1,4,8", "2,1,5", "2,5,8");
    assertThat(on("alter", "t.g", "--set", "key.test=exact").err())
        .contains("The key (id) is there already in 2 rows");
    assertThat(ok("delete", "t.g", "--serial", "4,5")).contains("2 deleted");
    assertThat(ok("update", "t.g", "--serial", "0", "--set", "name = 'n'")).contains("1 updated");
    ok("alter", "t.g", "--set", "key.test=exact");
    assertThat(ok("scan", "t.g", "--format", "csv").lines().skip(1).sorted())
        .containsExactly("1,n", "2,b", "3,y");
  }

  @Test
  void aDryRunChangesNothing() throws IOException {
    ok("create-table", "t.g", "id INTEGER, v INTEGER, PRIMARY KEY (id)");
    ok("load", "t.g", file("g.csv", "id,v\n1,1\n2,2\n"));
    ok("load", "t.g", file("h.csv", "id,v\n3,3\n4,4\n"));
    List<List<String>> all =
        List.of(
            List.of("delete", "t.g", "--all"),
            List.of("update", "t.g", "--set", "v = 9", "--where", "id < 4"),
            List.of("upsert", "t.g", file("u.csv", "id,v\n4,5\n5,5\n")),
            List.of("merge", "t.g", file("m.csv", "id,v\n4,5\n"), "--matched", "delete"),
            List.of("rewrite", "t.g"),
            List.of("rewind", "t.g", "--to", "1"),
            List.of("drop", "t.g"),
            List.of("compact", "t.g", "--full"));
    List<String> told = new ArrayList<>();
    for (List<String> command : all) {
      List<String> would = new ArrayList<>(command);
      would.add("--dry-run");
      told.add(ok(would.toArray(String[]::new)));
    }
    assertThat(told.get(0)).contains("Dry run; nothing was changed. 4 rows").contains("4 deleted");
    assertThat(told.get(1)).contains("3 updated");
    assertThat(told.get(2)).contains("1 updated, 0 deleted, 1 inserted");
    assertThat(told.get(3)).contains("0 updated, 1 deleted");
    assertThat(told.get(4)).contains("The rows of 2 files to 1 file").contains("would be moved");
    assertThat(told.get(5))
        .contains("would go back from version 2 to 1: 2 rows in 1 files instead of 4 in 2");
    assertThat(told.get(6)).contains("t.g, version 2, would be dropped: 4 rows in 2 files");
    assertThat(told.get(7)).contains("2 files").contains("would be combined, in 1 group");
    assertThat(ok("scan", "t.g", "--format", "csv").lines().skip(1))
        .containsExactly("1,1", "2,2", "3,3", "4,4");
    assertThat(ok("history", "t.g")).contains("append").doesNotContain("delete");
    assertThat(ok("tables")).contains("t.g");
    // It fails as the command itself would.
    assertThat(on("update", "t.g", "--set", "id = 1", "--all", "--dry-run").err()).contains("id");
    assertThat(on("rewind", "t.g", "--to", "9", "--dry-run").err()).contains("no version 9");
    assertThat(ok("compact", "t.g", "--full"))
        .contains("Combined 2 files")
        .contains("version 3. No row changed.");
    assertThat(ok("compact", "t.g", "--full"))
        .isEqualTo("Nothing was combined: there are too few small files.\n");
    assertThat(on("compact", "t.g", "--files", "0").err()).contains("A limit of 0 files");
    assertThat(on("compact", "t.g", "--where", "q = 1").err()).contains("no column q");
  }

  @Test
  void tablesAreRewound() throws IOException {
    ok("create-table", "t.g", "id INTEGER, v INTEGER, PRIMARY KEY (id)");
    ok("load", "t.g", file("g.csv", "id,v\n1,1\n2,2\n"));
    ok("update", "t.g", "--set", "v = 0", "--all");
    assertThat(ok("rewind", "t.g", "--to", "1", "--note", "forgot its WHERE"))
        .isEqualTo(
            "Rewound t.g to version 1: version 3, entry 7. It has 2 rows in 1 file again. Versions up to 2 stay readable.\n");
    assertThat(ok("scan", "t.g", "--format", "csv").lines().skip(1)).containsExactly("1,1", "2,2");
    assertThat(ok("scan", "t.g", "--at", "2", "--where", "v = 0", "--count")).contains("2");
    assertThat(ok("history", "t.g", "--limit", "1"))
        .contains("rewind to 1")
        .contains("forgot its WHERE");
    assertThat(ok("rewind", "t.g", "--to", "3"))
        .isEqualTo("t.g is at that version: nothing was changed.\n");
    String then =
        ok("history", "t.g", "--wide", "--format", "csv", "-n", "1")
            .lines()
            .skip(1)
            .findFirst()
            .orElseThrow();
    String time =
        java.util.Arrays.stream(then.split(","))
            .filter(c -> c.matches(".*T.*Z"))
            .findFirst()
            .orElseThrow();
    ok("delete", "t.g", "--all");
    ok("delete", "tide.readings", "--all");
    assertThat(ok("rewind", "t.g", "tide.readings", "--to", time))
        .contains("Rewound t.g to version 3: version 5")
        .contains("Rewound tide.readings to version 2: version 4");
    assertThat(ok("rewind", "t.g", "--to", "4", "--writer", "logger=1")).contains("version 6");
    assertThat(on("rewind", "t.g", "--to", "99").err())
        .contains("Table t.g has no version 99: its versions are 0 to 6.");
    assertThat(on("rewind", "t.g", "tide.readings", "--to", "1").code()).isEqualTo(2);
    assertThat(on("rewind", "t.g", "--to", "yesterday").err()).contains("no version, no time");
    assertThat(on("rewind", "t.g", "--to", "1", "--writer", "logger").err())
        .contains("NAME=NUMBER");
    assertThat(on("rewind", "t.g").code()).isEqualTo(2);
  }

  @Test
  void changesThatAreNotSaidClearlyAreRefused() throws IOException {
    ok("create-table", "t.g", "id INTEGER, name VARCHAR, PRIMARY KEY (id)");
    assertThat(on("delete", "t.g").err())
        .contains("Give --where CONDITION, --serial NUMBERS, or --all");
    assertThat(on("delete", "t.g", "--all", "--where", "id = 1").err()).contains("not both");
    assertThat(on("update", "t.g", "--where", "id = 1").code()).isEqualTo(2);
    String one = file("one.csv", "id,name\n1,a\n");
    assertThat(on("merge", "t.g", one, "--matched", "destroy").err())
        .contains("'destroy' is not a merge action");
    assertThat(on("merge", "t.g", one, "--matched", "take", "--matched", "delete").err())
        .contains("follows one without a condition");
    assertThat(on("upsert", "t.g", one, file("two.csv", "id\n1\n")).err())
        .contains("Merge them one by one");
    assertThat(on("upsert", "t.g", file("odd.csv", "id,nmae\n1,a\n")).err())
        .contains("Did you mean name?");
  }
}
