package org.ysteron.bench;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.store.LocalStore;

/**
 * Checks: of the metadata of a table of 1,000,000 files, by a process that has read nothing before,
 * against a plan of all of it (no data file is behind the entries, so that none is opened); and of
 * some six million rows of 16 columns in files of some 250,000, every byte and every row, with a
 * key and a check, against one scan of all of them, both with two threads.
 */
final class CheckBenchmark implements Main.Benchmark {
  private static final int FILES = Size.of(1_000_000, 2_000);
  private static final int BATCHES = Size.of(30, 3);

  @Override
  public boolean run(Path directory) throws IOException {
    boolean kept = metadata(directory.resolve("many"));
    return rows(directory.resolve("rows")) && kept;
  }

  private static boolean metadata(Path lake) throws IOException {
    UUID table;
    try (LakeCore core =
        LakeCore.create(
            new LocalStore(lake),
            CommitNote.standard(),
            new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      table = new MadeUpFiles().table(core, "bench.files", FILES);
    }
    Timing timing =
        new Timing()
            .add(
                "plan of all %,d files".formatted(FILES),
                () -> ManyFilesBenchmark.all(new LocalStore(lake), table, FILES))
            .add(
                "check of the metadata of %,d files".formatted(FILES),
                () -> check(lake, CheckDepth.METADATA))
            .run(2, 5);
    return Timing.ratio("metadata check / plan of all", timing.median(1) / timing.median(0), 2);
  }

  private static void check(Path path, CheckDepth depth) {
    try (Lake lake = Lake.open(new LocalStore(path), LakeOptions.DEFAULTS.threads(2))) {
      CheckReport report = lake.check().depth(depth).run();
      if (!report.isWhole()) {
        throw new IllegalStateException(report.toString());
      }
    }
  }

  private static boolean rows(Path path) throws IOException {
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(2))) {
      Table table =
          lake.createTable(
              "bench.lineitem",
              LineItems.schema().withKey("orderkey", "linenumber"),
              TableSettings.DEFAULTS);
      Condition positive = Condition.column("quantity").greaterThan(BigDecimal.ZERO);
      table.alter().check("positive", positive).run();
      List<Batch> some = new ArrayList<>();
      LineItems.forEach(
          LineItems.SCALE,
          batch -> {
            some.add(batch);
            if (some.size() == BATCHES) {
              append(table, some);
            }
          });
      append(table, some);
      long sum = ScanBenchmark.scan(table);
      Timing timing =
          new Timing()
              .add("scan of all rows", () -> Sums.same(sum, ScanBenchmark.scan(table)))
              .add("check of every byte", () -> check(path, CheckDepth.BYTES))
              .add("check of every row", () -> check(path, CheckDepth.ROWS))
              .run(1, 5);
      boolean kept =
          Timing.ratio("check of every byte / scan", timing.median(1) / timing.median(0), 1.6);
      return Timing.ratio("check of every row / scan", timing.median(2) / timing.median(0), 4)
          && kept;
    }
  }

  private static void append(Table table, List<Batch> batches) {
    try (Append append = table.append()) {
      batches.forEach(append::addBatch);
      append.commit();
    }
    batches.clear();
  }
}
