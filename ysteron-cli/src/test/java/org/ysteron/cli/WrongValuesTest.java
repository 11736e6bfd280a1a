package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Values that mean nothing are refused with a word, and nothing is changed. */
class WrongValuesTest {
  @TempDir private Path directory;
  private Tool tool;

  @BeforeEach
  void makeLake() {
    tool = new Tool(directory.resolve("lake"));
    assertThat(Tool.run("create-lake", directory.resolve("lake").toString()).code()).isZero();
    tool.ok("create-table", "t.x", "k INTEGER");
    tool.ok("create-table", "t.y", "k INTEGER");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "scan t.x --at UTC] | 'UTC]' is no version, no time",
        "scan t.x --at 2999-01-01 | is in the future",
        "scan t.x --at PT-3000H | is in the future",
        "scan t.x --at P99999999999Y | is no version, no time",
        "scan t.x --at PT9223372036854775807S | is no version, no time",
        "scan t.x --at 2026-01-01 --zone Mars/X | 'Mars/X' is no time zone",
        "compact t.x --time 5x | '5x' is no duration",
        "compact t.x --time PT-5S | 'PT-5S' is no duration",
        "erase t.x --where-from /no/such | The condition cannot be read from /no/such",
        "erase t.x --where-from /tmp | it is a directory",
        "check --resume /tmp | it is a directory",
        "scan t.x --limit -1 | must not be negative",
        "history t.x --limit -1 | must not be negative",
        "duplicates t.x --limit -1 | must not be negative",
        "layout t.x --none --sort k | not both",
        "rewind t.x --to 0 --writer =5 | is no NAME=NUMBER",
        "sweep --after P-1D | is negative",
        "settings sweep.after=P0D | an ISO 8601 duration above zero",
        "settings sweep.after=P2000000000Y | an ISO 8601 duration above zero",
        "settings sweep.after= | an ISO 8601 duration above zero",
        "bookmark b --move --drop | without --move",
        "bookmark b --at 2999-01-01 | is in the future"
      })
  void itIsRefused(String call, String told) {
    Tool.Answer answer = tool.on(call.split(" "));
    assertThat(answer.err()).contains(told).doesNotContain("not foreseen", "Exception", "java.");
    assertThat(answer.code()).isIn(1, 2);
  }

  @Test
  void aTextThatIsNotUtf8IsRefused() throws IOException {
    Path file = directory.resolve("condition.txt");
    Files.write(file, new byte[] {'k', ' ', '=', ' ', (byte) 0xff});
    Tool.Answer answer = tool.on("erase", "t.x", "--where-from", file.toString());
    assertThat(answer.err()).contains("is not text in UTF-8");
  }

  @Test
  void aBookmarkStandsWhereverAVersionCan() {
    tool.ok("bookmark", "b", "t.x");
    tool.ok("alter", "t.x", "ADD COLUMN v REAL");
    assertThat(tool.ok("compare", "t.x", "--from", "@b")).contains("version 0  →  t.x, version 1");
    assertThat(tool.on("bookmark", "b", "t.y", "--drop").err()).contains("is of table t.x");
    assertThat(tool.ok("rewind", "t.x", "--to", "@b")).contains("to version 0");
    assertThat(tool.ok("bookmark", "b", "t.x", "--drop")).contains("Removed");
  }

  @Test
  void allTablesThatExpireNamesAreThereBeforeTheFirstLosesVersions() {
    tool.ok("alter", "t.x", "ADD COLUMN v REAL");
    Tool.Answer answer = tool.on("expire", "t.x", "t.nothere", "--keep-newest", "1");
    assertThat(answer.err()).contains("There is no table 't.nothere'");
    assertThat(tool.ok("history", "t.x", "--format", "csv").lines()).hasSize(3);
  }

  @Test
  void aCheckGoesOnOnlyWhereOneOfThisLakeAndDepthHasEnded() throws IOException {
    Path noted = directory.resolve("noted.json");
    Files.writeString(noted, "{\"mine\":1}");
    assertThat(tool.on("check", "--resume", noted.toString()).err()).contains("was not changed");
    assertThat(noted).hasContent("{\"mine\":1}");
    Files.delete(noted);
    tool.ok("check", "--resume", noted.toString());
    tool.ok("check", "--depth", "bytes", "--resume", noted.toString());
    String text = Files.readString(noted);
    Files.writeString(noted, text.replace("\"after\":\"\"", "\"after\":\"data/x\""));
    assertThat(tool.on("check", "--resume", noted.toString()).err()).contains("to the depth bytes");
    Files.writeString(noted, text.replaceFirst("\"lake\":\"[^\"]*\"", "\"lake\":\"another\""));
    assertThat(tool.on("check", "--depth", "bytes", "--resume", noted.toString()).err())
        .contains("the position file of another lake");
  }
}
