package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.data.Schema;
import org.ysteron.data.Values;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.compare.VersionChanges;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.TreeDiff;
import org.ysteron.option.Alteration;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;

/**
 * Commits, plans and diffs of tables of 10, 1,000 and 1,000,000 files of 16 columns. The entries
 * are made up, but go through the same commits as real ones; no data file is behind them.
 */
final class ManyFilesBenchmark implements Main.Benchmark {
  private static final int FEW = 10;
  private static final int SOME = Size.of(1_000, 200);
  private static final int MANY = Size.of(1_000_000, 2_000);
  private static final int GAUGES = MadeUpFiles.GAUGES;
  private static final int HITS = 171;
  private static final long SPAN = MadeUpFiles.SPAN;
  private static final CommitNote NOTE = CommitNote.standard();

  private final Map<Integer, UUID> tables = new HashMap<>();
  private final MadeUpFiles files = new MadeUpFiles();
  private final Schema schema = MadeUpFiles.schema();

  @Override
  public boolean run(Path directory) throws IOException {
    CountingStore store = new CountingStore(new LocalStore(directory.resolve("lake")));
    try (LakeCore core =
        LakeCore.create(store, NOTE, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      int[] sizes = {FEW, SOME, MANY};
      for (int size : sizes) {
        long start = System.nanoTime();
        tables.put(size, files.table(core, "bench.files" + size, size));
        System.out.printf(
            "made a table of %,d files in %.1f s%n", size, (System.nanoTime() - start) / 1e9);
      }
      boolean kept = commits(core, store, sizes);
      kept &= plans(core);
      kept &= diffs(core);
      kept &= alterations(core);
      return kept;
    }
  }

  private boolean commits(LakeCore core, CountingStore store, int[] sizes) throws IOException {
    Timing timing = new Timing();
    int[] next = new int[sizes.length];
    for (int i = 0; i < sizes.length; i++) {
      int at = i;
      next[i] = sizes[i];
      timing.add(
          "commit of one file on %,d files".formatted(sizes[i]),
          () -> MadeUpFiles.commit(core, tables.get(sizes[at]), List.of(files.staged(next[at]++))));
    }
    timing.run(30, 101);
    long before = store.bytesWritten();
    MadeUpFiles.commit(core, tables.get(sizes[2]), List.of(files.staged(next[2])));
    double written = (store.bytesWritten() - before) / 1024.0;
    double small = timing.median(0);
    boolean kept =
        Timing.ratio("KiB written by a commit on %,d files".formatted(MANY), written, 96);
    return Timing.ratio(
            "commit on %,d / on 10 files".formatted(MANY),
            timing.median(2) / small,
            Math.max(2, (small + 2) / small))
        && kept;
  }

  /** Renames a column there and back: one commit, which touches no file entry. */
  private boolean alterations(LakeCore core) throws IOException {
    Timing timing =
        new Timing()
            .add("schema change on 10 files", () -> alter(core, FEW))
            .add("schema change on %,d files".formatted(MANY), () -> alter(core, MANY))
            .run(30, 101);
    return Timing.ratio(
        "schema change on %,d / on 10 files".formatted(MANY),
        timing.median(1) / timing.median(0),
        2);
  }

  private void alter(LakeCore core, int size) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SERIALIZABLE);
    TableChange table = set.table(tables.get(size), "bench.files");
    boolean back = table.draft().schema().struct().indexOf("noise") < 0;
    table.alter(
        List.of(new Alteration.RenameColumn(back ? "din" : "noise", back ? "noise" : "din")));
    set.commit(NOTE);
  }

  private boolean plans(LakeCore core) throws IOException {
    // The same hits: both tables' newest files cover the same hours, counted from their own end.
    Timing timing =
        new Timing()
            .add("plan of 171 hits among %,d files".formatted(SOME), () -> hits(core, SOME))
            .add("plan of 171 hits among %,d files".formatted(MANY), () -> hits(core, MANY))
            .run(20, 51);
    System.out.println("hits: " + hits(core, SOME) + " and " + hits(core, MANY));
    Timing full =
        new Timing().add("plan of all %,d files".formatted(MANY), () -> all(core)).run(2, 5);
    boolean kept =
        Timing.ratio("seconds to plan %,d files".formatted(MANY), full.median(0) / 1000, 1.5);
    return Timing.ratio(
            "plan among %,d / %,d".formatted(MANY, SOME), timing.median(1) / timing.median(0), 5)
        && kept;
  }

  private boolean diffs(LakeCore core) throws IOException {
    Timing timing =
        new Timing()
            .add("diff of neighbours, %,d files".formatted(SOME), () -> diff(core, SOME))
            .add("diff of neighbours, %,d files".formatted(MANY), () -> diff(core, MANY))
            .run(20, 51);
    Timing changes =
        new Timing()
            .add("changes of neighbours, %,d files".formatted(SOME), () -> changes(core, SOME))
            .add("changes of neighbours, %,d files".formatted(MANY), () -> changes(core, MANY))
            .run(50, 201);
    boolean kept =
        Timing.ratio(
            "changes on %,d / %,d".formatted(MANY, SOME), changes.median(1) / changes.median(0), 2);
    return Timing.ratio(
            "diff on %,d / %,d".formatted(MANY, SOME), timing.median(1) / timing.median(0), 5)
        && kept;
  }

  private void changes(LakeCore core, int size) {
    TableListing listing =
        core.refresh().page().table(tables.get(size), core.pages()).orElseThrow();
    TableHistory history = TableHistory.of(listing, core.pages());
    VersionPage now = history.newest();
    VersionPage before = history.pageOf(history.recordOf(now.version() - 1).orElseThrow());
    if (VersionChanges.between(core, before, now).count().inserted() != 3_600) {
      throw new IllegalStateException("not the rows of one file");
    }
  }

  private static VersionPage page(LakeCore core, UUID table) {
    return VersionPage.read(
        core.refresh().page().table(table, core.pages()).orElseThrow().page(), core.pages());
  }

  /** Plans in a fresh process, as it were: nothing is in the page cache of the lake. */
  private long hits(LakeCore core, int size) {
    try (LakeCore fresh =
        LakeCore.open(core.store(), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      VersionPage table = page(fresh, tables.get(size));
      long middle = MadeUpFiles.micros(size / 2);
      Condition hours =
          Condition.column("taken_at")
              .between(Values.instant(middle), Values.instant(middle + SPAN * (HITS / GAUGES - 1)));
      return count(new ScanPlan(table, Filter.bind(hours, schema), fresh.reading()));
    }
  }

  private void all(LakeCore core) {
    all(core.store(), tables.get(MANY), MANY);
  }

  static void all(ObjectStore store, UUID id, int files) {
    Schema schema = MadeUpFiles.schema();
    try (LakeCore fresh = LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      VersionPage table = page(fresh, id);
      long count =
          count(new ScanPlan(table, Filter.bind(Condition.all(), schema), fresh.reading()));
      if (count < files) {
        throw new IllegalStateException("planned " + count + " files");
      }
    }
  }

  private static long count(ScanPlan plan) {
    long count = 0;
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent()) {
      count++;
      task = plan.next();
    }
    return count;
  }

  private void diff(LakeCore core, int size) {
    try (LakeCore fresh =
        LakeCore.open(core.store(), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      TableListing listing =
          fresh.refresh().page().table(tables.get(size), fresh.pages()).orElseThrow();
      TableHistory history = TableHistory.of(listing, fresh.pages());
      VersionPage now = history.newest();
      VersionPage before = history.pageOf(history.recordOf(now.version() - 1).orElseThrow());
      TreeDiff<FileEntry, FileSummary> diff =
          before.fileTree(fresh.pages()).diff(now.fileTree(fresh.pages()));
      int changes = 0;
      while (diff.next().isPresent()) {
        changes++;
      }
      if (changes != 1) {
        throw new IllegalStateException("the diff has " + changes + " changes");
      }
    }
  }
}
