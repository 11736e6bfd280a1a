package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * Rewinds of tables of 10 and 1,000,000 files, all of which were replaced by others in between,
 * there and back again. The entries are made up; no data file is behind them.
 */
final class RewindBenchmark implements Main.Benchmark {
  private static final int MANY = Size.of(1_000_000, 2_000);
  private static final CommitNote NOTE = CommitNote.standard();

  private final MadeUpFiles files = new MadeUpFiles();

  /** A table, and two versions that share no file. */
  private record Replaced(UUID table, long before, long after) {}

  @Override
  public boolean run(Path directory) throws IOException {
    try (LakeCore core =
        LakeCore.create(
            new LocalStore(directory.resolve("lake")),
            NOTE,
            new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      Replaced small = replaced(core, 10);
      Replaced large = replaced(core, MANY);
      Timing timing =
          new Timing()
              .add("rewind on 10 files", () -> rewind(core, small))
              .add("rewind on %,d files".formatted(MANY), () -> rewind(core, large))
              .run(30, 101);
      return Timing.ratio(
          "rewind on %,d / on 10 files".formatted(MANY), timing.median(1) / timing.median(0), 2);
    }
  }

  private Replaced replaced(LakeCore core, int size) {
    UUID table = files.table(core, "bench.rewound" + size, size);
    VersionPage filled = page(core, table);
    TreeCursor<FileEntry, ?> old = filled.fileTree(core.pages()).cursor();
    for (int from = 0; from < size; from += MadeUpFiles.AT_ONCE) {
      int to = Math.min(size, from + MadeUpFiles.AT_ONCE);
      List<Touch> gone = new ArrayList<>();
      while (gone.size() < to - from && old.next()) {
        FileEntry file = old.value();
        gone.add(new Touch(file, RoaringBitmap.bitmapOfRange(0, file.rows()), true));
      }
      ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
      TableChange change = set.table(table, "bench.rewound");
      Effect effect = new Effect("replace", files.staged(size + from, size + to), gone, List.of());
      change.take(effect, change.after(effect));
      set.commit(NOTE);
    }
    System.out.printf("made a table of %,d files, and replaced all of them%n", size);
    return new Replaced(table, filled.version(), page(core, table).version());
  }

  private static VersionPage page(LakeCore core, UUID table) {
    return VersionPage.read(
        core.refresh().page().table(table, core.pages()).orElseThrow().page(), core.pages());
  }

  /** To the version that it is not at. */
  private static void rewind(LakeCore core, Replaced of) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SERIALIZABLE);
    TableChange change = set.table(of.table(), "bench.rewound");
    long at = page(core, of.table()).record().marks().rewoundTo().orElse(of.after());
    change.rewind(at == of.before() ? of.after() : of.before());
    set.commit(NOTE);
  }
}
