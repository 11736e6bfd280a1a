package org.ysteron.bench;

import com.sun.management.OperatingSystemMXBean;
import java.io.BufferedWriter;
import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.intake.OutsideFile;
import org.ysteron.option.Drift;

/**
 * Loads of six million rows of CSV ({@code -Dbench.rows} for others): strictly, into a table that
 * may grow and need not, and where the second half has a column more. The processor time of the
 * process is compared, medians of nine runs in turns.
 */
final class GrowBenchmark implements Main.Benchmark {
  private static final int ROWS = Integer.getInteger("bench.rows", Size.of(6_000_000, 4_000));
  private static final int ROUNDS = Integer.getInteger("bench.rounds", Size.of(9, 1));
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("gauge_id", Types.text(12)).notNull(),
          Field.of("taken_at", Types.INSTANT).notNull(),
          Field.of("level_cm", Types.decimal(7, 1)),
          Field.of("temperature", Types.DOUBLE),
          Field.of("battery_mv", Types.INTEGER),
          Field.of("quality", Types.text()));

  private int loads;

  @Override
  public boolean run(Path directory) throws IOException {
    Path first = directory.resolve("first.csv");
    Path second = directory.resolve("second.csv");
    Path more = directory.resolve("more.csv");
    write(first, 0, false);
    write(second, ROWS / 2, false);
    write(more, ROWS / 2, true);
    List<List<Double>> seconds = List.of(new ArrayList<>(), new ArrayList<>(), new ArrayList<>());
    for (int round = -1; round < ROUNDS; round++) {
      double strict = load(directory, Drift.STRICT, 6, first, second);
      double clean = load(directory, Drift.GROW, 6, first, second);
      double growing = load(directory, Drift.GROW, 7, first, more);
      if (round >= 0) {
        seconds.get(0).add(strict);
        seconds.get(1).add(clean);
        seconds.get(2).add(growing);
      }
    }
    double strict = Timing.median(seconds.get(0));
    double clean = Timing.median(seconds.get(1));
    double growing = Timing.median(seconds.get(2));
    System.out.printf(
        "%,d rows, seconds of processor: strict %.2f, clean %.2f, growing %.2f (medians of %d)%n",
        ROWS, strict, clean, growing, ROUNDS);
    boolean kept = Timing.ratio("clean rows, growing allowed / strict", clean / strict, 1.08);
    return Timing.ratio("a new column in the middle / none", growing / clean, 1.6) && kept;
  }

  private static void write(Path file, int from, boolean more) throws IOException {
    SplittableRandom random = new SplittableRandom(7);
    try (BufferedWriter out = Files.newBufferedWriter(file)) {
      out.write("gauge_id,taken_at,level_cm,temperature,battery_mv,quality");
      out.write(more ? ",salinity\n" : "\n");
      for (int i = from; i < from + ROWS / 2; i++) {
        int minute = i / 40;
        out.write(
            "ORR-%02d,2026-%02d-%02dT%02d:%02d:00Z,"
                .formatted(
                    i % 40,
                    1 + minute / 40_320 % 12,
                    1 + minute / 1440 % 28,
                    minute / 60 % 24,
                    minute % 60));
        int level = random.nextInt(9000);
        out.write(level / 10 + "." + level % 10 + "," + random.nextInt(200) / 8.0 + ",");
        out.write(11_000 + random.nextInt(2000) + "," + (i % 50 == 0 ? "suspect" : "good"));
        out.write(more ? "," + (300 + random.nextInt(60)) / 10.0 + "\n" : "\n");
      }
    }
  }

  private double load(Path directory, Drift drift, int columns, Path... files) throws IOException {
    Path place = directory.resolve("lake-" + ++loads);
    OperatingSystemMXBean system =
        (OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean();
    System.gc();
    long start = system.getProcessCpuTime();
    try (Lake lake = Lake.create(place)) {
      Table table = lake.createTable("bench.readings", SCHEMA);
      try (Append append = table.append(rules -> rules.with(drift))) {
        for (Path file : files) {
          read(OutsideFile.of(file), drift, append);
        }
        append.commit();
      }
      double seconds = (system.getProcessCpuTime() - start) / 1e9;
      if (table.scan().count() != ROWS || table.schema().columns().size() != columns) {
        throw new IllegalStateException("rows or columns are missing");
      }
      return seconds;
    } finally {
      Main.delete(place);
    }
  }

  private static void read(OutsideFile file, Drift drift, Append append) {
    if (drift == Drift.STRICT) {
      file.read(SCHEMA, append);
      return;
    }
    file.readNamed(append);
  }
}
