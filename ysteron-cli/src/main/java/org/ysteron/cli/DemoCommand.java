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
import java.util.stream.Stream;
import org.ysteron.Lake;
import org.ysteron.Transaction;
import org.ysteron.TransactionTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.examples.LiveStreams;
import org.ysteron.examples.TideOffice;
import org.ysteron.store.LocalStore;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron demo}: tells the story of the tide office with the tool's own commands. */
@Command(
    name = "demo",
    description = "Make a lake of sample data and show, step by step, what can be done with it.",
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
      description = "Where the lake is made (default: demo-lake).")
  private Path directory;

  @Option(names = "--again", description = "Delete an earlier demo lake there first.")
  private boolean again;

  private PrintWriter out;
  private int step;

  @Override
  public Integer call() throws IOException {
    out = out();
    Path drops = directory.resolve("drops");
    prepare(drops);
    out.println("The tide office of the Orrin Sound (which does not exist) has " + GAUGES);
    out.println("gauges. Their loggers drop files; from them the lake 'tidewatch' is made.");
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
    tell("Make a lake. The store is tested first: two writers must never both win.");
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
    tell("Load the register of gauges (JSON lines, nested) and day after day of readings (CSV).");
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
    tell("What is in the lake now?");
    run("tables");
    run("history", READINGS);
    tell("Read rows: a condition in SQL, some columns.");
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
    tell("Why was that fast? Files and pages that cannot match are never opened.");
    run(
        "explain",
        READINGS,
        "--where",
        "taken_at >= '2026-03-03T12:00:00Z' AND taken_at < '2026-03-03T14:00:00Z'");
    tell("Read the table as it was: version 2 had two days.");
    run("scan", READINGS, "--count");
    run("scan", READINGS, "--at", "2", "--count");
    changeIt(drops);
    evolveIt(drops);
    mendIt();
    tell(
        "The stream left many small files of the old layout. What would packing do? Then do it; no row changes.");
    String streamed = "taken_at >= '2026-04-01T00:00:00Z'";
    run("compact", READINGS, "--renew", "--where", streamed, "--rehearse");
    run("compact", READINGS, "--renew", "--where", streamed, "--note", "what was streamed");
    tell("A file with a bad value changes nothing, and the error says where it is.");
    fail("load", READINGS, drops.resolve("broken.csv").toString());
    tell("A typo in a condition is pointed at.");
    fail("scan", READINGS, "--where", "level_cm > 500 AND guage_id = 'ORR-01'");
    tell("Drop a table by mistake, and bring it back.");
    run("drop", "tide.gauges");
    run("bring-back", "tide.gauges");
    letGo(drops);
    out.println();
    out.println(
        "The lake is in " + lakeDirectory() + "; every file in data/ opens in any Parquet reader.");
    out.println("Play with it:");
    String on = "  ./ysteron %s --lake " + lakeDirectory();
    out.println(on.formatted("scan tide.readings --where \"quality = 'suspect'\" -n 10"));
    out.println(on.formatted("files tide.readings --ranges"));
    return 0;
  }

  private void letGo(Path drops) {
    String gauges = "tide.gauges";
    tell("Name a version, so that it stays, and let old ones go. What would that be?");
    run("bookmark", "the-register", gauges, "--at", "1");
    run("expire", gauges, "--keep-newest", "1", "--rehearse");
    run("expire", gauges, "--keep-newest", "1");
    tell("What is gone says so; what has a name can be read.");
    fail("scan", gauges, "--at", "2", "--count");
    run("scan", gauges, "--at", "@the-register", "--count");
    tell("Delete what nothing needs any more. Nobody else is at work here, so that it may go now.");
    run("sweep", "--now", "--entries");
    prove();
    leave(drops);
    tell("From now on by rules: 'ysteron upkeep', run by a clock, does what is due.");
    run("settings", "keep.for=P14D", "keep.thinned=day P3M");
    run("upkeep", "--rehearse");
  }

  /** A file is lost on purpose, found, and put back. */
  private void prove() {
    tell("Prove that all is there and whole: every byte, and every row of the newest versions.");
    run("check", "--depth", "rows");
    tell("Somebody deletes a data file behind our back. What is lost, and what would a mend do?");
    Path lost = Path.of(lakeDirectory()).resolve(firstFile("tide.gauges"));
    Path aside = lost.resolveSibling("aside");
    try {
      Files.move(lost, aside);
      fail("check");
      run("mend", "--rehearse");
      tell("There is a copy of that file: put it back, and nothing is lost.");
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
    tell("An observer gets a new phone, leaves, and is deleted. Old versions still have the name.");
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
    tell(
        "Erase: from every version, and whatever else tells of it. What would that be? Then do it.");
    run("erase", observers, "--where", her, "--rehearse");
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
    tell("A drop comes a second time: its keys are there, so it is refused.");
    fail("load", READINGS, drops.resolve("day-2.csv").toString());
    tell("Late packets arrive: readings that are there already, some corrected, and new ones.");
    run(
        "upsert",
        READINGS,
        drops.resolve("late.csv").toString(),
        "--last-wins",
        "--note",
        "late packets");
    tell(
        "The clock of one gauge is an hour ahead since its service: correct those rows and only those.");
    run(
        "update",
        READINGS,
        "--set",
        "taken_at = taken_at - INTERVAL '1' HOUR",
        "--where",
        "gauge_id = 'ORR-12' AND taken_at >= '2026-03-02T01:00:00Z'",
        "--note",
        "clock of ORR-12");
    tell("Merge the weekly register: changed gauges, new ones, and one that was taken down.");
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
    tell("Rows went by row masks, few bytes were written, every earlier version is still there.");
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
    tell("Two loggers stream and two followers read, while the table is counted each second.");
    stream();
  }

  private void evolveIt(Path drops) {
    String firmware = drops.resolve("firmware-2.jsonl").toString();
    tell(
        "Loggers of a new firmware send columns nobody announced. Strictly, all of it is refused.");
    fail("load", READINGS, firmware);
    tell("The table may grow by them, nested ones too, in the very commit that brings the rows.");
    run("load", READINGS, firmware, "--drift", "grow", "--note", "firmware 2");
    run("schema", READINGS);
    tell("They send millimetres: fill the old column from level_mm. Then say what a level may be.");
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
    tell("Old versions read by their own columns, or by the newest.");
    run("scan", READINGS, "--at", "2", "--limit", "2");
    run("scan", READINGS, "--at", "2", "--limit", "2", "--newest-schema");
    tell("What a third maker sends is set aside as JSON, looked at, and lifted into columns.");
    run("load", READINGS, drops.resolve("buoy.jsonl").toString(), "--drift", "set_aside");
    run("leftovers", READINGS);
    run("lift", READINGS, "wave.height_m AS wave_m REAL", "turbidity AS turbidity INTEGER");
    tell("What has changed since the table was made?");
    run("compare", READINGS);
    tell("Queries of a day slow down, so from month to day partitions. No file is touched.");
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
    tell("One plan prunes each file by the layout it was written by.");
    run(
        "explain",
        READINGS,
        "--where",
        "taken_at >= '2026-03-07T00:00:00Z' AND taken_at < '2026-03-08T00:00:00Z' AND gauge_id = 'ORR-07'");
    tell("On request old files are moved to the newest layout; no row changes.");
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
        "A correction that was meant for one gauge forgets its WHERE. Rewind: one small commit, and the mistake stays readable.");
    run("update", READINGS, "--set", "level_cm = 0", "--all", "--note", "zero of ORR-03");
    run("rewind", READINGS, "--to", Long.toString(good), "--note", "it forgot its WHERE");
    run("scan", READINGS, "--where", "level_cm > 0", "--count");
    run("history", READINGS, "--limit", "3");
  }

  /** Three seconds of the example program, and a bulletin in one commit with what it read. */
  private void stream() {
    out.println(Ansi.AUTO.string("@|faint (example program \"streams\")|@"));
    ByteArrayOutputStream caught = new ByteArrayOutputStream();
    try (Lake lake = Lake.open(directory.resolve("tidewatch"))) {
      LiveStreams.run(
          lake.table(READINGS), 3, new PrintStream(caught, true, StandardCharsets.UTF_8));
      out.print(caught.toString(StandardCharsets.UTF_8));
      try (Transaction work = lake.begin()) {
        TransactionTable bulletins =
            work.createTable(
                "tide.bulletins",
                Schema.of(
                    Field.of("computed_at", Types.INSTANT), Field.of("readings", Types.BIGINT)));
        long count = work.table(READINGS).scan().count();
        bulletins.add(work.start().commit().time(), count);
        work.commit("the bulletin");
        out.println(
            "A bulletin of " + count + " readings was committed with what it was read from.");
      }
    }
  }

  private String lakeDirectory() {
    return directory.resolve("tidewatch").toString();
  }

  private void prepare(Path drops) throws IOException {
    Path lake = Path.of(lakeDirectory());
    if (Files.exists(lake)) {
      if (!again && !directory.equals(Path.of("demo-lake"))) {
        throw new InvalidInputException(
            "There is something in %s already. Choose another directory, or add --again to delete it."
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
