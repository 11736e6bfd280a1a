package org.ysteron.cli;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.function.BiConsumer;
import java.util.stream.Stream;
import org.ysteron.Lake;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.examples.LiveStreams;
import org.ysteron.examples.SinceTheBulletin;
import org.ysteron.examples.TideOffice;
import org.ysteron.store.LocalStore;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron demo}: tells the story of the tide office with the tool's own commands. */
@Command(
    name = "demo",
    description = "Create a lake of sample data and show the main features step by step.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron demo /tmp/tidewatch-demo")
final class DemoCommand extends StandardCommand {
  private static final int GAUGES = 40;
  private static final int DAYS = 4;
  private static final String READINGS = "tide.readings";

  @Parameters(
      index = "0",
      arity = "0..1",
      paramLabel = "DIR",
      defaultValue = "demo-lake",
      description = "Directory of the lake (default: demo-lake).")
  private Path directory;

  @Option(names = "--again", description = "Delete an earlier demo lake in that directory first.")
  private boolean again;

  private PrintWriter out;
  private int step;

  @Override
  public Integer call() throws IOException {
    out = out();
    Path drops = directory.resolve("drops");
    prepare(drops);
    out.println(
        "The tide office of the Orrin Sound (an invented place) has " + GAUGES + " gauges.");
    out.println("Their loggers send files, which are loaded into the lake 'tidewatch'.");
    try {
      makeTheLake(drops);
      return lookAtIt(drops);
    } catch (NobodyReads e) {
      return 1;
    }
  }

  /** What is printed is read no more, as with {@code head}. */
  private static final class NobodyReads extends RuntimeException {
    private static final long serialVersionUID = 1L;
  }

  private void makeTheLake(Path drops) {
    String lake = lakeDirectory();
    tell(
        "Create a lake. The store is tested first: of two writers of one object only one may succeed.");
    run("create-lake", lake);
    out.println(Ansi.AUTO.string("@|faint $ export YSTERON_LAKE=" + lake + "|@"));
    tell("Create two tables from SQL column definitions.");
    run(
        "create-table",
        READINGS,
        definitions(TideOffice.readingsSchema()),
        "--partition",
        "range taken_at every 1 month");
    run("create-table", "tide.gauges", definitions(TideOffice.gaugesSchema()));
    tell("Load the register of gauges (nested JSON Lines) and four days of readings (CSV).");
    run("load", "tide.gauges", drops.resolve("gauges.jsonl").toString(), "--note", "the register");
    for (int day = 1; day <= DAYS; day++) {
      run(
          "load",
          READINGS,
          drops.resolve("day-" + day + ".csv").toString(),
          "--note",
          "drop of day " + day);
    }
  }

  private static String definitions(Schema schema) {
    return schema.toString().replace('\n', ' ');
  }

  private int lookAtIt(Path drops) {
    tell("List the tables, and the versions of one.");
    run("tables");
    run("history", READINGS);
    tell("Scan rows with an SQL condition and some columns.");
    run(
        "scan",
        READINGS,
        "--where",
        "gauge_id = 'ORR-07' AND level_cm > 535",
        "--columns",
        "taken_at,level_cm,quality",
        "--limit",
        "6");
    run(
        "scan",
        "tide.gauges",
        "--where",
        "harbour = 'Vessa'",
        "--columns",
        "gauge_id,name,installed_on,sensors");
    tell("Query several tables in SQL.");
    run(
        "query",
        "SELECT g.harbour, count(*) AS readings, max(r.level_cm) AS highest"
            + " FROM tide.readings r JOIN tide.gauges g ON g.gauge_id = r.gauge_id"
            + " WHERE r.quality = 'good' GROUP BY g.harbour ORDER BY highest DESC LIMIT 4");
    tell("Explain a scan: files and pages that cannot match are not opened.");
    run(
        "explain",
        READINGS,
        "--where",
        "taken_at >= '2026-03-03T12:00:00Z' AND taken_at < '2026-03-03T14:00:00Z'");
    tell("Time travel: version 2 had two days of readings.");
    run("scan", READINGS, "--count");
    run("scan", READINGS, "--at", "2", "--count");
    changeIt(drops);
    evolveIt(drops);
    sinceTheBulletin();
    mendIt();
    tell(
        "Compact the many small files that the stream left in the old layout: first a dry run, then the run. No row changes.");
    String streamed = "taken_at >= '2026-04-01T00:00:00Z'";
    run("compact", READINGS, "--renew", "--where", streamed, "--dry-run");
    run("compact", READINGS, "--renew", "--where", streamed, "--note", "what was streamed");
    tell("Load a file with a bad value: nothing is loaded, and the error names the line.");
    fail("load", READINGS, drops.resolve("broken.csv").toString());
    tell("Mistype a column name: the error suggests the right one.");
    fail("scan", READINGS, "--where", "level_cm > 500 AND guage_id = 'ORR-01'");
    tell("Drop a table by mistake, and bring it back.");
    run("drop", "tide.gauges");
    run("bring-back", "tide.gauges");
    letGo(drops);
    out.println();
    out.println(
        "The lake is in " + lakeDirectory() + "; any Parquet reader opens the files in data/.");
    out.println("Try more commands:");
    String on = "  ./ysteron %s --lake " + lakeDirectory();
    out.println(on.formatted("scan tide.readings --where \"quality = 'suspect'\" -n 10"));
    out.println(on.formatted("files tide.readings --ranges"));
    return 0;
  }

  private void letGo(Path drops) {
    String gauges = "tide.gauges";
    tell("Bookmark a version to keep it, and expire the old ones: first a dry run.");
    run("bookmark", "the-register", gauges, "--at", "1");
    run("expire", gauges, "--keep-newest", "1", "--dry-run");
    run("expire", gauges, "--keep-newest", "1");
    tell(
        "Read an expired version: the error says when it expired. The bookmarked version is still readable.");
    fail("scan", gauges, "--at", "2", "--count");
    run("scan", gauges, "--at", "@the-register", "--count");
    tell("Sweep: delete the files that nothing needs. Nobody else is writing, so --now is safe.");
    run("sweep", "--now", "--entries");
    prove();
    leave(drops);
    tell("Set rules for the future. 'ysteron upkeep', run by a scheduler, does what is due.");
    run("settings", "keep.for=P14D", "keep.thinned=day P3M");
    run("upkeep", "--dry-run");
  }

  /** A file is lost on purpose, found, and put back. */
  private void prove() {
    tell("Check the whole lake: every byte, and every row of the newest versions.");
    run("check", "--depth", "rows");
    tell(
        "Lose a data file on purpose: the check finds it, and a dry run of mend shows what would be lost.");
    Path lost = Path.of(lakeDirectory()).resolve(firstFile("tide.gauges"));
    Path aside = lost.resolveSibling("aside");
    try {
      Files.move(lost, aside);
      fail("check");
      run("mend", "--dry-run");
      tell("Restore the file from a copy: nothing is lost.");
      Files.move(aside, lost);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    run("check");
  }

  /** Who asks for it is in the lake no more, not in old versions either. */
  private void leave(Path drops) {
    String observers = "tide.observers";
    String her = "observer_id = 17";
    tell("Delete an observer: old versions still have the name and the phone number.");
    run("create-table", observers, definitions(TideOffice.observersSchema()));
    run("load", observers, drops.resolve("observers.csv").toString(), "--note", "the volunteers");
    run(
        "update",
        observers,
        "--set",
        "phone = '0555-1717'",
        "--where",
        her,
        "--note",
        "new phone of number 17");
    run("delete", observers, "--where", her, "--note", "number 17 leaves");
    run("scan", observers, "--at", "2", "--where", her);
    tell("Erase the observer from every version: first a dry run, then the run.");
    run("erase", observers, "--where", her, "--dry-run");
    run("erase", observers, "--where", her);
    run("scan", observers, "--at", "2", "--where", her);
    run("history", observers);
    run("check", "--depth", "rows");
  }

  private String firstFile(String table) {
    try (Lake lake = Lake.open(LocalStore.existing(Path.of(lakeDirectory())))) {
      return lake.table(table).now().files().get(0).name();
    }
  }

  private void changeIt(Path drops) {
    tell("Load a file a second time: its keys exist, so nothing is loaded.");
    fail("load", READINGS, drops.resolve("day-2.csv").toString());
    tell("Upsert late packets: corrected readings and new ones.");
    run(
        "upsert",
        READINGS,
        drops.resolve("late.csv").toString(),
        "--last-wins",
        "--note",
        "late packets");
    tell("Update the readings of one gauge whose clock was an hour ahead.");
    run(
        "update",
        READINGS,
        "--set",
        "taken_at = taken_at - INTERVAL '1' HOUR",
        "--where",
        "gauge_id = 'ORR-12' AND taken_at >= '2026-03-02T01:00:00Z'",
        "--note",
        "clock of ORR-12");
    tell("Merge the weekly register: changed gauges, new gauges, and a removed one.");
    run(
        "merge",
        "tide.gauges",
        drops.resolve("register.csv").toString(),
        "--matched",
        "delete if source.status = 'removed'",
        "--matched",
        "set status = source.status, name = source.name",
        "--unmatched",
        "take",
        "--note",
        "register of week 10");
    tell(
        "Old rows are marked in row masks: few bytes are written, and earlier versions stay readable.");
    run("history", READINGS, "--limit", "4");
    run("files", READINGS);
    run(
        "scan",
        READINGS,
        "--at",
        "4",
        "--where",
        "gauge_id = 'ORR-12' AND taken_at < '2026-03-02T01:00:00Z'",
        "--count");
    run(
        "scan",
        READINGS,
        "--where",
        "gauge_id = 'ORR-12' AND taken_at < '2026-03-02T01:00:00Z'",
        "--count");
    tell(
        "Stream: two loggers write and two followers read, while the table is counted each second.");
    stream();
  }

  private void evolveIt(Path drops) {
    String firmware = drops.resolve("firmware-2.jsonl").toString();
    tell("Load a file with unknown columns: the strict rule rejects it.");
    fail("load", READINGS, firmware);
    tell(
        "Load it with --drift grow: the new columns, also nested ones, are added in the same commit.");
    run("load", READINGS, firmware, "--drift", "grow", "--note", "firmware 2");
    run("schema", READINGS);
    tell("Fill the old column from the new one, and add a check constraint.");
    run(
        "update",
        READINGS,
        "--set",
        "level_cm = level_mm / 10.0",
        "--where",
        "level_cm IS NULL AND level_mm IS NOT NULL",
        "--note",
        "millimetres");
    fail("alter", READINGS, "ADD CONSTRAINT sane CHECK (level_cm < 535)");
    run(
        "alter",
        READINGS,
        "ADD CONSTRAINT sane CHECK (level_cm < 2000), RENAME COLUMN health.signal_db TO signal_dbm,"
            + " ALTER COLUMN battery_mv SET DATA TYPE BIGINT, MOVE COLUMN level_mm AFTER level_cm");
    tell("Read an old version with its own columns, or with the newest.");
    run("scan", READINGS, "--at", "2", "--limit", "2");
    run("scan", READINGS, "--at", "2", "--limit", "2", "--newest-schema");
    tell("Set unknown values aside as JSON, list them, and lift them into columns.");
    run("load", READINGS, drops.resolve("buoy.jsonl").toString(), "--drift", "set_aside");
    run("leftovers", READINGS);
    run("lift", READINGS, "wave.height_m AS wave_m REAL", "turbidity AS turbidity INTEGER");
    tell("Compare the schema with that of the first version.");
    run("compare", READINGS);
    tell("Change from month to day partitions. No file is rewritten.");
    run(
        "layout",
        READINGS,
        "--partition",
        "range taken_at every 1 day",
        "--partition",
        "hash gauge_id into 4",
        "--sort",
        "gauge_id,taken_at");
    run("load", READINGS, drops.resolve("day-7.csv").toString());
    tell("Explain a scan: each file is pruned by the layout it was written with.");
    run(
        "explain",
        READINGS,
        "--where",
        "taken_at >= '2026-03-07T00:00:00Z' AND taken_at < '2026-03-08T00:00:00Z' AND gauge_id = 'ORR-07'");
    tell("Rewrite old files in the newest layout. No row changes.");
    run(
        "rewrite",
        READINGS,
        "--older-layouts",
        "--where",
        "taken_at < '2026-03-02T00:00:00Z'",
        "--note",
        "the first day by day");
    run("layout", READINGS);
  }

  private void mendIt() {
    long good;
    try (Lake lake = Lake.open(directory.resolve("tidewatch"))) {
      good = lake.table(READINGS).now().version();
    }
    tell(
        "Correct one gauge by 12 cm, but forget the WHERE. What did that correction do? The summary shows it at a glance.");
    run(
        "update",
        READINGS,
        "--set",
        "level_cm = level_cm + 12",
        "--all",
        "--note",
        "datum of ORR-03");
    run("changes", READINGS, "--summary", "--limit", "3");
    tell("Rewind: it is one small commit, and the mistake stays readable.");
    run("rewind", READINGS, "--to", Long.toString(good), "--note", "it forgot its WHERE");
    run("history", READINGS, "--limit", "3");
    tell("See what happened to one reading, and who last changed it.");
    String one = "gauge_id = 'ORR-12' AND taken_at = '2026-03-02T05:00:00Z'";
    run("row-history", READINGS, "--where", one, "--columns", "taken_at,level_cm");
    run("row-origin", READINGS, "--where", one);
  }

  /** Three seconds of the example program, and a bulletin in one commit with what it read. */
  private void stream() {
    out.println(Ansi.AUTO.string("@|faint (example program \"streams\")|@"));
    ByteArrayOutputStream caught = new ByteArrayOutputStream();
    try (Lake lake = Lake.open(directory.resolve("tidewatch"))) {
      LiveStreams.run(
          lake.table(READINGS), 3, new PrintStream(caught, true, StandardCharsets.UTF_8));
      out.print(caught.toString(StandardCharsets.UTF_8));
    }
    example("since-the-bulletin", SinceTheBulletin::begin);
  }

  /** Runs an example program on the lake. */
  private void example(String name, BiConsumer<Lake, PrintStream> program) {
    out.println(Ansi.AUTO.string("@|faint (example program \"" + name + "\")|@"));
    ByteArrayOutputStream caught = new ByteArrayOutputStream();
    try (Lake lake = Lake.open(directory.resolve("tidewatch"))) {
      program.accept(lake, new PrintStream(caught, true, StandardCharsets.UTF_8));
    }
    out.print(caught.toString(StandardCharsets.UTF_8));
  }

  private void sinceTheBulletin() {
    tell("Mark some old readings as suspect.");
    run(
        "update",
        READINGS,
        "--set",
        "quality = 'suspect'",
        "--where",
        "gauge_id = 'ORR-05' AND taken_at >= '2026-03-04T12:00:00Z' AND taken_at < '2026-03-05T00:00:00Z'",
        "--note",
        "the float of ORR-05 sticks");
    tell(
        "How many readings came since the last bulletin, and how many old ones changed? Count, without reading values.");
    run("changes", READINGS, "--since", SinceTheBulletin.POSITION, "--counts");
    tell(
        "Compute the next bulletin from these changes. It moves its reader's position in the same commit, so that each change counts once.");
    example("since-the-bulletin", SinceTheBulletin::next);
    example("since-the-bulletin", SinceTheBulletin::next);
    run("position");
  }

  private String lakeDirectory() {
    return directory.resolve("tidewatch").toString();
  }

  private void prepare(Path drops) throws IOException {
    Path lake = Path.of(lakeDirectory());
    if (Files.exists(lake)) {
      if (!again && !directory.equals(Path.of("demo-lake"))) {
        throw new InvalidInputException(
            "Directory %s is not empty. Choose another directory, or add --again to delete its content."
                .formatted(lake));
      }
      delete(lake);
    }
    new DemoDrops(drops, GAUGES, DAYS).write();
  }

  private static void delete(Path directory) throws IOException {
    try (Stream<Path> all = Files.walk(directory)) {
      for (Path path : all.sorted(java.util.Comparator.reverseOrder()).toList()) {
        Files.delete(path);
      }
    }
  }

  private void tell(String what) {
    step++;
    out.println();
    out.println(Ansi.AUTO.string("@|bold " + step + ". " + what + "|@"));
  }

  private void run(String... arguments) {
    int code = show(arguments);
    if (out.checkError()) {
      throw new NobodyReads();
    }
    if (code != 0) {
      throw new IllegalStateException(
          "the demo's command " + String.join(" ", arguments) + " failed");
    }
  }

  private void fail(String... arguments) {
    if (show(arguments) == 0) {
      throw new IllegalStateException(
          "the demo's command " + String.join(" ", arguments) + " should have failed");
    }
  }

  private int show(String... arguments) {
    StringBuilder line = new StringBuilder("$ ysteron");
    for (String argument : arguments) {
      line.append(' ').append(argument.matches("[\\w./,=-]+") ? argument : '"' + argument + '"');
    }
    out.println(Ansi.AUTO.string("@|faint " + line + "|@"));
    out.flush();
    List<String> all = new ArrayList<>(List.of(arguments));
    if (!arguments[0].equals("create-lake")) {
      all.add("--lake");
      all.add(lakeDirectory());
    }
    return Main.run(out, out, all.toArray(String[]::new));
  }
}
