package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Json;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;

/** What programs read: names in snake_case, and values that need no second parsing. */
class JsonOutputTest {
  @TempDir Path directory;
  private final Set<String> read = new HashSet<>();
  private Tool tool;

  private String file(String name, String content) throws IOException {
    return Files.writeString(directory.resolve(name), content).toString();
  }

  private Object json(String... command) {
    String[] all = Arrays.copyOf(command, command.length + 2);
    all[command.length] = "--format";
    all[command.length + 1] = "json";
    read.add(command[0]);
    return Json.parse(tool.ok(all));
  }

  private List<Map<?, ?>> rows(String... command) {
    List<Map<?, ?>> rows = new ArrayList<>();
    ((List<?>) json(command)).forEach(row -> rows.add(named((Map<?, ?>) row)));
    return rows;
  }

  private static Map<?, ?> named(Map<?, ?> object) {
    object.keySet().forEach(key -> assertThat((String) key).matches("[a-z][a-z0-9_]*"));
    return object;
  }

  @BeforeEach
  void fill() throws IOException {
    tool = new Tool(directory.resolve("lake"));
    Tool.run("create-lake", tool.lake().toString());
    tool.ok(
        "create-table",
        "tide.readings",
        "gauge_id VARCHAR(12) NOT NULL, taken_on DATE, level REAL DEFAULT 1.5, PRIMARY KEY (gauge_id)",
        "--partition",
        "range taken_on every 1 month",
        "--set",
        "key.test=within_writes");
    String csv = "gauge_id,taken_on,level\nA,2026-01-05,5\nB,2026-02-05,\n";
    tool.ok("load", "tide.readings", file("a.csv", csv), "--note", "first");
    String more = "{\"gauge_id\":\"A\",\"taken_on\":\"2026-01-06\",\"wind\":4}\n";
    tool.ok("load", "tide.readings", file("b.jsonl", more), "--drift", "set_aside");
    tool.ok("create-table", "tide.old", "k INTEGER");
    tool.ok("drop", "tide.old");
  }

  @Test
  void versionsHaveNumbersAndTimes() {
    Map<?, ?> newest = rows("history", "tide.readings").get(0);
    assertThat(newest.get("version")).isEqualTo(2);
    assertThat(newest.get("rows_added")).isEqualTo(1);
    assertThat(newest.get("files_masked")).isEqualTo(0);
    assertThat(Instant.parse((String) newest.get("time"))).isAfter(Instant.EPOCH);
    assertThat(UUID.fromString((String) newest.get("commit"))).isNotNull();
  }

  @Test
  void filesHaveNestedRanges() {
    List<Map<?, ?>> files = rows("files", "tide.readings");
    assertThat(files).hasSize(3).allSatisfy(file -> assertThat(file.get("rows")).isEqualTo(1));
    Map<?, ?> ranges = (Map<?, ?>) files.get(0).get("ranges");
    assertThat(ranges.get("level"))
        .isEqualTo(Map.of("min", new BigDecimal("5.0"), "max", new BigDecimal("5.0"), "nulls", 0));
    assertThat(((Map<?, ?>) ranges.get("taken_on")).get("min")).isEqualTo("2026-01-05");
    Map<?, ?> empty = (Map<?, ?>) ((Map<?, ?>) files.get(2).get("ranges")).get("level");
    assertThat(empty.get("min")).isNull();
    assertThat(empty.get("nulls")).isEqualTo(1);
    assertThat((String) files.get(0).get("sha256")).hasSize(64);
  }

  @Test
  void columnsHaveTruthsAndNulls() {
    List<Map<?, ?>> columns = rows("schema", "tide.readings");
    Map<?, ?> key = columns.get(0);
    assertThat(key.get("not_null")).isEqualTo(true);
    assertThat(key.get("key")).isEqualTo(1);
    assertThat(key.get("default")).isNull();
    assertThat(key.get("comment")).isNull();
    assertThat(columns.get(2).get("not_null")).isEqualTo(false);
    assertThat(columns.get(2).get("key")).isNull();
    assertThat(columns.get(2).get("default")).isEqualTo("1.5");
  }

  @Test
  void aPlanIsOneObject() {
    Map<?, ?> plan =
        named((Map<?, ?>) json("explain", "tide.readings", "-w", "taken_on > DATE '2026-02-01'"));
    assertThat(plan.get("version")).isEqualTo(2);
    assertThat(plan.get("files")).isEqualTo(3);
    assertThat(plan.get("files_skipped_by_range")).isEqualTo(2);
    assertThat(plan.get("row_groups")).isEqualTo(Map.of("all", 0, "skipped", 0));
    Map<?, ?> reason = (Map<?, ?>) ((List<?>) plan.get("skipped_by")).get(0);
    assertThat(reason.get("column")).isEqualTo("taken_on");
    assertThat(reason.get("files")).isEqualTo(2);
    Map<?, ?> layout = (Map<?, ?>) ((List<?>) plan.get("layouts")).get(0);
    assertThat(layout.get("files_read")).isEqualTo(1);
  }

  @Test
  void everyOtherListingIsTypedToo() {
    assertThat(rows("tables"))
        .containsExactly(
            Map.of(
                "table",
                "tide.readings",
                "version",
                2,
                "rows",
                3,
                "files",
                3,
                "bytes",
                rows("tables").get(0).get("bytes")));
    assertThat(rows("tables").get(0).get("bytes")).isInstanceOf(Number.class);
    assertThat(rows("tables", "--dropped").get(0).get("table")).isEqualTo("tide.old");
    Map<?, ?> layout = rows("layout", "tide.readings").get(0);
    assertThat(layout.get("is_current")).isEqualTo(true);
    assertThat(layout.get("files")).isEqualTo(3);
    Map<?, ?> leftover = rows("leftovers", "tide.readings").get(0);
    assertThat(leftover.get("key")).isEqualTo("wind");
    assertThat(leftover.get("types")).isEqualTo(Map.of("INTEGER", 1));
    assertThat(leftover.get("samples")).isEqualTo(List.of("4"));
    List<Map<?, ?>> duplicates = rows("duplicates", "tide.readings");
    assertThat(duplicates)
        .hasSize(2)
        .allSatisfy(row -> assertThat(row.get("gauge_id")).isEqualTo("A"));
    assertThat(duplicates.get(0).get("serial")).isInstanceOf(Number.class);
    assertThat(rows("compare", "tide.readings", "--from", "0").get(0).get("mark")).isEqualTo("+");
    assertThat(rows("scan", "tide.readings", "--count")).containsExactly(Map.of("rows", 3));
    assertThat(rows("query", "SELECT count(*) AS rows_there FROM tide.readings"))
        .containsExactly(Map.of("rows_there", 3));
    assertThat(rows("sql", "-e", "SELECT count(*) AS rows_there FROM tide.readings"))
        .containsExactly(Map.of("rows_there", 3));
    Map<?, ?> row = rows("scan", "tide.readings", "-w", "gauge_id = 'B'").get(0);
    assertThat(row.get("level")).isNull();
    assertThat(row.get("taken_on")).isEqualTo("2026-02-05");
  }

  @Test
  void changesAreRowsOrOneSummary() {
    assertThat(rows("changes", "tide.readings", "--from", "1").get(0).get("change"))
        .isEqualTo("inserted");
    Map<?, ?> counts = rows("changes", "tide.readings", "--from", "0", "--counts").get(0);
    assertThat(counts.get("inserted")).isEqualTo(3);
    assertThat(counts.get("is_exact")).isEqualTo(true);
    Map<?, ?> summary =
        named(
            (Map<?, ?>) json("changes", "tide.readings", "--from", "2", "--to", "1", "--summary"));
    assertThat(summary.get("deleted")).isEqualTo(1);
    Map<?, ?> origin = rows("row-origin", "tide.readings", "-w", "gauge_id = 'B'").get(0);
    assertThat(origin.get("inserted")).isEqualTo("1");
    assertThat(Instant.parse((String) origin.get("changed_at"))).isAfter(Instant.EPOCH);
    Map<?, ?> first = rows("row-history", "tide.readings", "-w", "gauge_id = 'B'").get(0);
    assertThat(first.get("change")).isEqualTo("inserted");
    assertThat(first.get("operation")).isEqualTo("append");
    Map<?, ?> step = rows("changes", "tide.readings", "--from", "0", "--steps").get(0);
    assertThat(step.get("note")).isEqualTo("first");
    assertThat(step.get("inserted")).isEqualTo(2);
  }

  @Test
  void packingIsToldAsItWouldBeAndAsItWas() {
    Map<?, ?> group = rows("compact", "tide.readings", "--full", "--dry-run").get(0);
    assertThat(group.get("files")).isEqualTo(2);
    assertThat(group.get("masked_rows")).isEqualTo(0);
    assertThat(group.get("partition")).isEqualTo("2026-01");
    Map<?, ?> packed = rows("compact", "tide.readings", "--full").get(0);
    assertThat(packed.get("version")).isEqualTo(3);
    assertThat(packed.get("files_read")).isEqualTo(2);
    assertThat(packed.get("bytes_read")).isEqualTo(group.get("bytes"));
    assertThat(packed.get("files_written")).isEqualTo(1);
    assertThat(packed.get("is_spent")).isEqualTo(false);
    assertThat(packed.get("skipped")).isEqualTo(List.of());
  }

  @Test
  void healthHasNestedFindings() {
    Map<?, ?> health = rows("health", "tide.readings").get(0);
    assertThat(health.get("files")).isEqualTo(3);
    assertThat(health.get("bytes_of_older_versions")).isEqualTo(0);
    assertThat(health.get("metadata_pages")).isEqualTo(1);
    Map<?, ?> small = named((Map<?, ?>) ((List<?>) health.get("findings")).get(0));
    assertThat(small.get("kind")).isEqualTo("small_files");
    assertThat(small.get("files")).isEqualTo(3);
    assertThat(small.get("cost_bytes")).isEqualTo(0);
    assertThat(rows("health")).hasSize(1);
  }

  @Test
  void statisticsAreOfEachColumn() {
    assertThat(rows("statistics", "tide.readings")).isEmpty();
    Map<?, ?> gauge = rows("statistics", "tide.readings", "--measure").get(0);
    assertThat(gauge.get("column")).isEqualTo("gauge_id");
    assertThat(gauge.get("distinct")).isEqualTo(2);
    assertThat(gauge.get("nulls")).isEqualTo(0);
    assertThat(gauge.get("min")).isEqualTo("A");
    assertThat(gauge.get("max")).isEqualTo("B");
    assertThat(((List<?>) gauge.get("frequent")).get(0))
        .isEqualTo(Map.of("value", "A", "count", 2));
    assertThat(rows("statistics", "tide.readings", "--columns", "level")).hasSize(1);
  }

  @Test
  void whatGoesIsToldInNumbersAndTimes() {
    assertThat(tool.on("bookmark", "first", "tide.readings", "--at", "1").out())
        .contains("The bookmark first names tide.readings, version 1");
    Map<?, ?> mark = rows("bookmark").get(0);
    assertThat(mark.get("table")).isEqualTo("tide.readings");
    assertThat(mark.get("version")).isEqualTo(1);
    tool.ok("position", "hourly", "tide.readings", "--at", "1");
    Map<?, ?> position = rows("position").get(0);
    assertThat(position.get("state")).isEqualTo("unread");
    assertThat((int) position.get("newest")).isGreaterThan(1);
    assertThat(Instant.parse((String) position.get("kept_until"))).isAfter(Instant.now());
    tool.ok("position", "hourly", "--drop");
    Map<?, ?> gone = rows("expire", "tide.readings", "--keep-newest", "1").get(0);
    assertThat(gone.get("first")).isEqualTo(0);
    assertThat(gone.get("last")).isEqualTo(0);
    assertThat(gone.get("freed")).isInstanceOf(Number.class);
    assertThat(Instant.parse((String) gone.get("from"))).isNotNull();
    Map<?, ?> lake = rows("health", "--of-lake").get(0);
    assertThat(lake.get("holds")).isEqualTo(1);
    assertThat(lake.containsKey("free_until")).isTrue();
    List<Map<?, ?>> swept = rows("sweep", "--now", "--entries");
    assertThat(swept)
        .anySatisfy(row -> assertThat(row.get("what")).isEqualTo("entry"))
        .allSatisfy(row -> assertThat(row.get("bytes")).isInstanceOf(Number.class));
    Map<?, ?> setting = rows("settings", "keep.newest=7").get(1);
    assertThat(setting.get("setting")).isEqualTo("keep.newest");
    assertThat(setting.get("value")).isEqualTo(7);
    assertThat(setting.get("is_set")).isEqualTo(true);
  }

  @Test
  void aCheckIsOneObjectWithWhatItFound() throws IOException {
    Map<?, ?> report = named((Map<?, ?>) json("check"));
    assertThat(report.get("is_whole")).isEqualTo(true);
    assertThat(report.get("findings")).isEqualTo(List.of());
    assertThat(report.get("position")).isNull();
    assertThat((int) report.get("files")).isPositive();
    assertThat(rows("mend")).isEmpty();
    Map<?, ?> file = (Map<?, ?>) ((List<?>) json("files", "tide.readings")).get(0);
    Path lost = tool.lake().resolve((String) file.get("name"));
    byte[] content = Files.readAllBytes(lost);
    Files.delete(lost);
    Tool.Answer answer = tool.on("check", "--format", "json");
    assertThat(answer.code()).isEqualTo(3);
    Map<?, ?> finding =
        (Map<?, ?>) ((List<?>) ((Map<?, ?>) Json.parse(answer.out())).get("findings")).get(0);
    assertThat(finding.get("kind")).isEqualTo("file");
    Map<?, ?> affected = named((Map<?, ?>) ((List<?>) finding.get("affected")).get(0));
    assertThat(affected.get("table")).isEqualTo("tide.readings");
    assertThat(Instant.parse((String) affected.get("from"))).isAfter(Instant.EPOCH);
    assertThat(affected.get("until")).isNull();
    assertThat(rows("mend", "--dry-run").get(0).get("rows")).isEqualTo(affected.get("rows"));
    Files.write(lost, content);
    assertThat(tool.on("check").code()).isZero();
  }

  @Test
  void anErasureIsOneObjectInTheReportToo() throws IOException {
    String[] erase = {"erase", "tide.readings", "--where", "gauge_id = 'B'", "--bookmarks"};
    Map<?, ?> would = named((Map<?, ?>) json(with(erase, "--dry-run")));
    assertThat(would.get("is_dry_run")).isEqualTo(true);
    assertThat(would.get("erasure")).isNull();
    Path file = tool.lake().resolveSibling("erased.json");
    String[] count = {"scan", "tide.readings", "--where", erase[3], "--count"};
    assertThat(tool.ok(count).strip()).endsWith(" 1");
    Map<?, ?> report = named((Map<?, ?>) json(with(erase, "--report", file.toString())));
    assertThat(report).isEqualTo(Json.parse(Files.readString(file)));
    assertThat(report.get("rows")).isEqualTo(would.get("rows"));
    assertThat(Instant.parse((String) report.get("ended"))).isAfter(Instant.EPOCH);
    assertThat((List<?>) report.get("not_reached")).hasSizeGreaterThan(3);
    assertThat(tool.ok(count).strip()).endsWith(" 0");
    Tool.Answer again = tool.on(with(erase, "--report", file.toString()));
    assertThat(again.err()).contains("already exists");
    Map<?, ?> newest = (Map<?, ?>) ((List<?>) json("history", "tide.readings")).get(0);
    assertThat(newest.get("redacted")).isEqualTo(true);
    Path condition = Files.writeString(tool.lake().resolveSibling("who.sql"), erase[3] + "\n");
    assertThat(tool.on("erase", "tide.readings", "--where-from", condition.toString()).err())
        .contains("No row in any kept version");
    assertThat(tool.on("erase", "tide.readings", "--give-up").err())
        .contains("has no unfinished erasure");
    assertThat(tool.on("erase", "tide.readings").err()).contains("--where");
  }

  private static String[] with(String[] words, String... more) {
    List<String> all = new ArrayList<>(List.of(words));
    all.addAll(List.of(more));
    return all.toArray(String[]::new);
  }

  @Test
  void noCommandThatListsIsForgotten() throws IOException {
    versionsHaveNumbersAndTimes();
    filesHaveNestedRanges();
    columnsHaveTruthsAndNulls();
    aPlanIsOneObject();
    everyOtherListingIsTypedToo();
    healthHasNestedFindings();
    changesAreRowsOrOneSummary();
    packingIsToldAsItWouldBeAndAsItWas();
    statisticsAreOfEachColumn();
    whatGoesIsToldInNumbersAndTimes();
    aCheckIsOneObjectWithWhatItFound();
    anErasureIsOneObjectInTheReportToo();
    Set<String> listing = new HashSet<>();
    for (Map.Entry<String, CommandLine> command : Main.commandLine().getSubcommands().entrySet()) {
      CommandSpec spec = command.getValue().getCommandSpec();
      if (spec.findOption("--format") != null) {
        listing.add(command.getKey());
      }
    }
    assertThat(read).isEqualTo(listing);
  }
}
