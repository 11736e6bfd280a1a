package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.LocalStore;

/**
 * Packing ten thousand files of 600 rows of 16 columns into files of the usual size, against one
 * scan of them plus one append of the same rows, with two threads; and a full scan of what was
 * packed against one of a table that was written in one go. The same 240,000 rows come 25 times.
 */
final class CompactBenchmark implements Main.Benchmark {
  private static final int FILE_ROWS = 600;
  private static final int FILES = Size.of(10_000, 250);
  private int round;

  @Override
  public boolean run(Path directory) throws IOException {
    List<Batch> batches = LineItems.batches(0.04, FILE_ROWS).subList(0, FILES / 25);
    try (Lake lake =
        Lake.create(new LocalStore(directory.resolve("lake")), LakeOptions.DEFAULTS.threads(2))) {
      Table once = lake.createTable("bench.once", LineItems.schema());
      append(once, batches);
      Table packed = lake.createTable("bench.packed", LineItems.schema());
      packed.alter().set(TableSettings.FILE_BYTES, 1024).run();
      append(packed, batches);
      packed.alter().set(TableSettings.FILE_BYTES, 128L << 20).run();
      long before = packed.now().version();
      check(packed.now().files().size(), FILES);
      Timing timing =
          new Timing()
              .add("scan of %,d files".formatted(FILES), () -> ScanBenchmark.scan(packed))
              .add("append of their rows", () -> append(lake, batches))
              .add("compaction", () -> compact(packed, before))
              .run(1, 5);
      boolean kept =
          Timing.ratio(
              "compaction / scan and append",
              timing.median(2) / (timing.median(0) + timing.median(1)),
              1.25);
      compact(packed, before);
      System.out.printf("%d files, %d in one go%n", files(packed), files(once));
      Timing after =
          new Timing()
              .add("scan of what was written in one go", () -> ScanBenchmark.scan(once))
              .add("scan of what was packed", () -> ScanBenchmark.scan(packed))
              .run(2, 9);
      return Timing.ratio("scan packed / in one go", after.median(1) / after.median(0), 1.08)
          && kept;
    }
  }

  private static int files(Table table) {
    return table.now().files().size();
  }

  private void append(Lake lake, List<Batch> batches) {
    String name = "bench.again" + round++;
    append(lake.createTable(name, LineItems.schema()), batches);
    lake.dropTable(name);
  }

  private static void append(Table table, List<Batch> batches) {
    try (Append append = table.append()) {
      for (int i = 0; i < 25; i++) {
        batches.forEach(append::addBatch);
      }
      append.commit();
    }
  }

  private static void compact(Table table, long before) {
    if (table.now().version() > before) {
      table.rewind().to(before).run();
    }
    CompactionReport report = table.compact().run();
    check(report.read().files(), FILES);
  }

  private static void check(long found, long expected) {
    if (found != expected) {
      throw new IllegalStateException(found + " files instead of " + expected);
    }
  }
}
