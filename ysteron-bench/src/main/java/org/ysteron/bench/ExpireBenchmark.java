package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.upkeep.ExpiryRun;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.store.LocalStore;

/**
 * Expiry of 1,000 versions, one file changed in each, of tables of 1,000 and 1,000,000 files, by a
 * process that has read nothing before: the time, and the pages that are read. The entries are made
 * up; no data file is behind them.
 */
final class ExpireBenchmark implements Main.Benchmark {
  private static final CommitNote NOTE = CommitNote.standard();
  private static final int VERSIONS = Size.of(1_000, 20);
  private static final int ROUNDS = 3;

  private final MadeUpFiles files = new MadeUpFiles();

  /** What an expiry took. */
  private record Cost(double millis, long pages, ExpiryReport report) {}

  @Override
  public boolean run(Path directory) throws IOException {
    Path lake = directory.resolve("lake");
    int[] sizes = {Size.of(1_000, 100), Size.of(1_000_000, 2_000)};
    UUID[] tables = new UUID[sizes.length];
    int[] next = sizes.clone();
    double[][] millis = new double[sizes.length][ROUNDS];
    long[] pages = new long[sizes.length];
    try (LakeCore core =
        LakeCore.create(new LocalStore(lake), NOTE, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      for (int i = 0; i < sizes.length; i++) {
        tables[i] = files.table(core, "bench.files" + sizes[i], sizes[i]);
      }
    }
    for (int round = 0; round < ROUNDS; round++) {
      for (int i = 0; i < sizes.length; i++) {
        change(lake, tables[i], next, i);
        Cost cost = expire(lake, tables[i]);
        millis[i][round] = cost.millis;
        pages[i] = cost.pages;
        System.out.printf(
            "expired %,d versions of a table of %,d files: %.0f ms, %,d pages read, %,d files free%n",
            cost.report.versions(), sizes[i], cost.millis, cost.pages, cost.report.freed());
        if (cost.report.freed() < VERSIONS - 1) {
          throw new IllegalStateException("only " + cost.report.freed() + " files are free");
        }
      }
    }
    boolean kept =
        Timing.ratio(
            "time on %,d / on %,d files".formatted(sizes[1], sizes[0]),
            Timing.median(millis[1]) / Timing.median(millis[0]),
            3);
    return Timing.ratio(
            "pages read on %,d / on %,d files".formatted(sizes[1], sizes[0]),
            (double) pages[1] / pages[0],
            3)
        && kept;
  }

  /** Replaces one file in each of many versions. */
  private void change(Path lake, UUID table, int[] next, int at) {
    try (LakeCore core =
        LakeCore.open(new LocalStore(lake), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      Random random = new Random(3);
      for (int version = 0; version < VERSIONS; version++) {
        VersionPage page =
            VersionPage.read(
                core.refresh().page().table(table, core.pages()).orElseThrow().page(),
                core.pages());
        PageTree<FileEntry, FileSummary> tree = page.fileTree(core.pages());
        FileEntry file = tree.at(random.nextLong(tree.count()));
        Touch gone = new Touch(file, RoaringBitmap.bitmapOfRange(0, file.rows()), true);
        ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
        TableChange change = set.table(table, "bench.files");
        int number = next[at]++;
        Effect effect =
            new Effect("replace", files.staged(number, number + 1), List.of(gone), List.of());
        change.take(effect, change.after(effect));
        set.commit(NOTE);
      }
    }
  }

  private static Cost expire(Path lake, UUID table) {
    try (LakeCore core =
        LakeCore.open(new LocalStore(lake), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      long before = core.pages().pagesRead();
      long start = System.nanoTime();
      ExpiryReport report =
          new ExpiryRun(core, NOTE, Optional.of(Retention.EVERYTHING.andNewest(1)))
              .run(core.refresh().page().table(table, core.pages()).orElseThrow());
      return new Cost((System.nanoTime() - start) / 1e6, core.pages().pagesRead() - before, report);
    }
  }
}
