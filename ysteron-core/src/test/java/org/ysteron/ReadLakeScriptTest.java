package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Json;
import org.ysteron.data.Values;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.lake.PositionRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * The reader that was written from the format's page alone sees in kept lakes what this one sees.
 */
class ReadLakeScriptTest {
  private static final Path SCRIPT = Path.of("../docs/read-lake.py").toAbsolutePath();

  @TempDir Path directory;

  private String read(Path lake) throws IOException, InterruptedException {
    Path output = directory.resolve("output.json");
    Process process;
    try {
      process =
          new ProcessBuilder("python3", SCRIPT.toString(), lake.toString())
              .redirectOutput(output.toFile())
              .redirectError(directory.resolve("errors.txt").toFile())
              .start();
    } catch (IOException e) {
      assumeTrue(false, "python3 is not here: " + e.getMessage());
      throw e;
    }
    assertThat(process.waitFor(1, TimeUnit.MINUTES)).isTrue();
    String errors = Files.readString(directory.resolve("errors.txt"));
    assumeTrue(!errors.contains("libzstd"), "the zstd library is not here: " + errors);
    assertThat(errors).isEmpty();
    return Files.readString(output, StandardCharsets.UTF_8);
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "format-1",
        "format-1-changes",
        "format-1-evolved",
        "format-1-wide",
        "format-1-rewound",
        "format-1-packed",
        "format-1-remote",
        "format-1-swept",
        "format-1-positions"
      })
  void itSeesVersionsFilesRangesMasksAndBirths(String kept) throws Exception {
    Path lake = Path.of("src/test/resources/golden/" + kept).toAbsolutePath();
    Map<?, ?> told = (Map<?, ?>) Json.parse(read(lake));
    List<Object> tables = new ArrayList<>();
    try (LakeCore core =
        LakeCore.open(
            new LocalStore(lake), new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)))) {
      assertThat(told.get("hash")).isEqualTo(core.refresh().hash());
      List<TableListing> listings = new ArrayList<>();
      listings.addAll(core.refresh().page().tables(false, core.pages()));
      listings.addAll(core.refresh().page().tables(true, core.pages()));
      listings.forEach(listing -> tables.add(table(listing, core)));
      assertThat(told.get("positions")).hasToString(positions(core).toString());
    }
    assertThat(shown((List<?>) told.get("tables"))).containsExactlyInAnyOrderElementsOf(tables);
  }

  private static List<Object> positions(LakeCore core) {
    List<Object> positions = new ArrayList<>();
    for (PositionRecord record : core.refresh().page().upkeep().positions(core.pages())) {
      Map<String, Object> position = new LinkedHashMap<>();
      position.put("name", record.name());
      position.put("entry", (int) record.entry());
      position.put("moves", (int) record.moves());
      Map<String, Object> versions = new LinkedHashMap<>();
      record
          .versions()
          .forEach((table, version) -> versions.put(table.toString(), version.intValue()));
      position.put("versions", versions);
      position.put("limit", record.limit().toNanos() / 1000);
      position.put("moved", Values.micros(record.moved()));
      positions.add(position);
    }
    return positions;
  }

  private static Map<String, Object> table(TableListing listing, LakeCore core) {
    TableHistory history = TableHistory.of(listing, core.pages());
    List<Object> versions = new ArrayList<>();
    for (long v = 0; v <= listing.version(); v++) {
      Optional<HistoryRecord> kept = history.recordOf(v);
      if (kept.isEmpty()) {
        continue; // it has expired
      }
      VersionPage page = history.pageOf(kept.get());
      List<Object> files = new ArrayList<>();
      var cursor = page.fileTree(core.pages()).cursor();
      while (cursor.next()) {
        files.add(file(cursor.value(), core));
      }
      HistoryRecord record = page.record();
      versions.add(
          List.of(
              record.version(),
              record.commit().ordinal(),
              record.commit().commitId().toString(),
              record.operation(),
              record.totals().rows(),
              record.lives().born(),
              record.lives().gone(),
              record.marks().onlyMoved(),
              files));
    }
    Map<String, Object> table = new LinkedHashMap<>();
    table.put("name", listing.name());
    table.put("dropped", listing.dropped());
    table.put("serial", listing.numbers().serial());
    table.put("versions", versions);
    return table;
  }

  private static Map<String, Object> file(FileEntry file, LakeCore core) {
    FileEntry.Numbers numbers = file.numbers();
    Map<String, Object> shown = new LinkedHashMap<>();
    shown.put(
        "numbers",
        List.of(
            numbers.number(),
            numbers.place(),
            numbers.rows(),
            numbers.births().own(),
            numbers.births().since(),
            numbers.births().least(),
            numbers.births().greatest(),
            numbers.order(),
            numbers.firstSerial()));
    shown.put("hash", file.hash());
    List<Long> masked = new ArrayList<>();
    file.maskedPositions(core.pages()).forEach((int position) -> masked.add((long) position));
    shown.put("masked", masked);
    Map<String, Object> ranges = new TreeMap<>();
    file.trackedRanges().forEach((id, range) -> ranges.put(id.toString(), bounds(range)));
    shown.put("ranges", ranges);
    return shown;
  }

  private static Object bounds(ColumnRange range) {
    if (range.state() != ColumnRange.State.BOUNDED) {
      return range.state().toString().toLowerCase(java.util.Locale.ROOT);
    }
    String type = range.type().toString();
    return type.startsWith("INT") || type.startsWith("BIG") || type.startsWith("DATE")
        ? List.of(range.min(), range.max())
        : "bounded";
  }

  /** What the script tells, in the form of the above. */
  private static List<Object> shown(List<?> tables) {
    List<Object> all = new ArrayList<>();
    for (Object each : tables) {
      Map<?, ?> of = (Map<?, ?>) each;
      List<Object> versions = new ArrayList<>();
      for (Object told : (List<?>) of.get("versions")) {
        Map<?, ?> version = (Map<?, ?>) told;
        List<Object> files = new ArrayList<>();
        ((List<?>) version.get("data files")).forEach(file -> files.add(shown((Map<?, ?>) file)));
        Map<?, ?> commit = (Map<?, ?>) version.get("commit");
        versions.add(
            List.of(
                number(version, "version"),
                number(commit, "ordinal"),
                commit.get("id"),
                version.get("operation"),
                number(version, "rows"),
                number(version, "rows born"),
                number(version, "rows gone"),
                version.get("only moved"),
                files));
      }
      Map<String, Object> table = new LinkedHashMap<>();
      table.put("name", of.get("name"));
      table.put("dropped", of.get("dropped"));
      table.put("serial", number(of, "next serial"));
      table.put("versions", versions);
      all.add(table);
    }
    return all;
  }

  private static Map<String, Object> shown(Map<?, ?> file) {
    List<Object> numbers = new ArrayList<>();
    for (String name :
        List.of(
            "number",
            "place",
            "rows",
            "birth",
            "since",
            "least birth",
            "greatest birth",
            "order",
            "first serial")) {
      numbers.add(number(file, name));
    }
    Map<String, Object> shown = new LinkedHashMap<>();
    shown.put("numbers", numbers);
    shown.put("hash", file.get("hash"));
    List<Long> masked = new ArrayList<>();
    ((List<?>) file.get("masked")).forEach(at -> masked.add(((Number) at).longValue()));
    shown.put("masked", masked);
    Map<String, Object> ranges = new TreeMap<>();
    ((Map<?, ?>) file.get("ranges"))
        .forEach((id, range) -> ranges.put((String) id, toldBounds((Map<?, ?>) range)));
    shown.put("ranges", ranges);
    return shown;
  }

  private static Object toldBounds(Map<?, ?> range) {
    String state = (String) range.get("state");
    if (!state.equals("bounded")) {
      return state.equals("null") ? "all_null" : state;
    }
    String type = (String) range.get("type");
    return type.startsWith("INT") || type.startsWith("BIG") || type.startsWith("DATE")
        ? List.of(number(range, "least"), number(range, "greatest"))
        : "bounded";
  }

  private static long number(Map<?, ?> of, String name) {
    return ((Number) of.get(name)).longValue();
  }
}
