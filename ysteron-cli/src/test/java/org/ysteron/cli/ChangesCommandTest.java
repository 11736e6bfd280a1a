package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What {@code ysteron changes} prints, and what it refuses. */
class ChangesCommandTest {
  @TempDir Path directory;
  private Tool tool;

  @BeforeEach
  void makeALake() throws IOException {
    tool = new Tool(directory.resolve("lake"));
    Tool.run("create-lake", tool.lake().toString());
    tool.ok("create-table", "t.t", "k INTEGER, level REAL, seen TIMESTAMP, PRIMARY KEY (k)");
    Path file = directory.resolve("a.csv");
    Files.writeString(
        file, "k,level,seen\n1,10,2026-01-01T00:00:00\n2,20,2026-01-02T00:00:00\n3,30,\n");
    tool.ok("load", "t.t", file.toString());
    tool.ok("update", "t.t", "--set", "level = level + 12", "--where", "k < 3", "--note", "datum");
    tool.ok("delete", "t.t", "--where", "k = 3");
  }

  private List<String> lines(String... words) {
    return tool.ok(words).lines().map(line -> line.strip().replaceAll(" +", " ")).toList();
  }

  @Test
  void rowsHaveTheirValuesBeforeAndAfter() {
    assertThat(lines("changes", "t.t", "--from", "1", "-c", "k,level"))
        .containsExactly(
            "change serial k level",
            "deleted 2 3 30.0",
            "updated from 0 1 10.0",
            "updated to 0 1 22.0",
            "updated from 1 2 20.0",
            "updated to 1 2 32.0");
    assertThat(lines("changes", "t.t", "--from", "1", "-w", "k = 2", "-n", "1")).hasSize(2);
    assertThat(lines("changes", "t.t"))
        .contains("deleted 2 3 30.0 –")
        .noneMatch(line -> line.startsWith("updated"));
  }

  @Test
  void aSummaryShowsThatAllWentUpByTheSame() {
    assertThat(lines("changes", "t.t", "--from", "1", "--to", "2", "--summary"))
        .contains("t.t, version 1 → version 2", "updated 2 rows")
        .anyMatch(line -> line.matches("level 2 .* all \\+12(\\.0)?"));
    assertThat(lines("changes", "t.t", "--from", "2", "--to", "1", "--summary"))
        .anyMatch(line -> line.matches("level 2 .* all -12(\\.0)?"));
    assertThat(lines("changes", "t.t", "--from", "1", "--counts"))
        .contains("deleted 1 row")
        .anyMatch(line -> line.startsWith("updated 2 rows at most"));
    assertThat(lines("changes", "t.t", "--from", "3", "--to", "3")).contains("No rows differ.");
  }

  @Test
  void stepsTellWhoAndWhy() {
    assertThat(lines("changes", "t.t", "--from", "0", "--steps"))
        .hasSize(4)
        .anyMatch(line -> line.startsWith("2 ") && line.endsWith("datum"));
    tool.ok("expire", "t.t", "--keep-newest", "1");
    tool.ok("delete", "t.t", "--where", "k = 1");
    Tool.Answer missing = tool.on("changes", "t.t", "--from", "1", "--steps");
    assertThat(missing.code()).isNotZero();
    assertThat(missing.err()).contains("expired").doesNotContain("at org.");
    assertThat(lines("changes", "t.t", "--from", "3", "--kept-steps")).hasSize(2);
  }

  @Test
  void aFileIsWrittenOnce() {
    String file = directory.resolve("out.parquet").toString();
    assertThat(tool.ok("changes", "t.t", "--from", "1", "-o", file))
        .isEqualTo("Wrote 5 rows to %s.%n".formatted(file));
    Tool.Answer again = tool.on("changes", "t.t", "--from", "1", "-o", file);
    assertThat(again.code()).isNotZero();
    assertThat(again.err()).contains("already exists");
  }

  @Test
  void aRowSaysWhereItComesFromAndWhatHappenedToIt() {
    assertThat(lines("row-origin", "t.t", "-w", "k = 2").get(1))
        .matches("2 1 [-0-9T:]+Z \\S+ 2 [-0-9T:]+Z \\S+");
    tool.ok("update", "t.t", "--set", "k = 7", "--where", "k = 2");
    List<String> history = lines("row-history", "t.t", "-w", "k = 2", "-c", "k,level");
    assertThat(history).hasSize(6);
    assertThat(history.get(1)).matches("1 \\S+ append \\S+ inserted 1 2 20.0");
    assertThat(history.get(3)).matches("2 \\S+ update \\S+ updated to 1 2 32.0");
    assertThat(history.get(5)).matches("4 \\S+ update \\S+ updated to 1 7 32.0");
    assertThat(lines("row-history", "t.t", "-w", "k = 3", "-c", "k")).hasSize(3);
    tool.ok("expire", "t.t", "--keep-newest", "1");
    assertThat(lines("row-origin", "t.t", "-w", "k = 7").get(1))
        .matches("7 0 to 4 – – 4 \\S+ \\S+");
    assertThat(lines("row-history", "t.t", "-w", "k = 7").get(1))
        .startsWith("0 to 4 – – – inserted 1 7");
    assertThat(lines("row-history", "t.t", "-w", "k = 99"))
        .containsExactly("No version that is kept has a row that matches.");
    assertThat(tool.on("row-history", "t.t").err()).contains("--where");
    assertThat(tool.on("row-origin", "t.t", "-w", "kk = 1").err()).contains("kk");
    assertThat(lines("row-origin", "t.t", "-w", "k > 0", "-n", "1"))
        .contains("Printed 1 row. Use --limit to print more.");
  }

  @Test
  void aPositionSaysWhatIsUnread() {
    assertThat(tool.ok("position")).isEqualTo("The lake has no positions.%n".formatted());
    assertThat(lines("position", "hourly", "t.t", "--at", "2"))
        .contains("The position hourly has read t.t up to version 2; version 3 is the newest.");
    assertThat(lines("position").get(1)).startsWith("hourly t.t 2 3 unread 0 ");
    assertThat(lines("changes", "t.t", "--since", "hourly", "--counts")).contains("deleted 1 row");
    assertThat(lines("position", "hourly", "t.t"))
        .contains("Changes of t.t since version 2 were unread; they are skipped up to version 3.");
    assertThat(lines("position", "hourly").get(1)).startsWith("hourly t.t 3 3 up to date 1 ");
    assertThat(lines("changes", "t.t", "--since", "hourly")).contains("No rows differ.");
    assertThat(tool.on("position", "hourly", "t.t", "--at", "1").err()).contains("cannot go back");
    assertThat(tool.on("position", "hour").err()).contains("Did you mean hourly?");
    assertThat(tool.on("changes", "t.t", "--since", "hour").err()).contains("hourly");
    assertThat(tool.on("changes", "t.t", "--since", "hourly", "--from", "1").err())
        .contains("--since");
    assertThat(tool.on("position", "x", "t.t", "--limit", "soon").err()).contains("ISO 8601");
    tool.ok("create-table", "t.u", "k INTEGER");
    assertThat(tool.on("changes", "t.u", "--since", "hourly").err())
        .contains("does not read table t.u. It reads t.t.");
    assertThat(tool.on("position", "hourly", "t.t", "--drop").err()).contains("--drop");
    tool.ok("position", "hourly", "--drop");
    tool.ok("position", "empty", "t.u");
    tool.ok("drop", "t.u");
    assertThat(lines("position").get(1)).startsWith("empty t.u 0 1 dropped");
    tool.ok("position", "empty", "--drop");
    assertThat(tool.ok("position")).isEqualTo("The lake has no positions.%n".formatted());
  }

  @Test
  void wrongWordsAreAnswered() {
    assertThat(tool.on("changes", "t.t", "--to", "0").err()).contains("Version 0 of table t.t");
    assertThat(tool.on("changes", "t.t", "--from", "9").err()).contains("9");
    assertThat(tool.on("changes", "t.t", "--counts", "--summary").err()).contains("--summary");
    assertThat(tool.on("changes", "t.t", "--counts", "-n", "3").err()).contains("--limit");
    assertThat(tool.on("changes", "t.t", "-c", "levle").err()).contains("level");
    assertThat(tool.on("changes", "t.x").err()).contains("t.t");
  }
}
