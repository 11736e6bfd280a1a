package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
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
import org.ysteron.internal.upkeep.ExpiryRun;
import org.ysteron.internal.upkeep.SweepChoice;
import org.ysteron.internal.upkeep.SweepRun;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.store.LocalStore;

/**
 * A sweep of 100,000 data files that are free, against the deletion of as many files of the same
 * sizes by their names. The files are small and made up.
 */
final class SweepBenchmark implements Main.Benchmark {
  private static final CommitNote NOTE = CommitNote.standard();
  private static final int FILES = Size.of(100_000, 300);
  private static final int ROUNDS = 3;
  private static final byte[] CONTENT = new byte[200];

  @Override
  public boolean run(Path directory) throws IOException {
    double[] bare = new double[ROUNDS];
    double[] swept = new double[ROUNDS];
    for (int round = 0; round < ROUNDS; round++) {
      bare[round] = bare(directory.resolve("bare" + round));
      swept[round] = swept(directory.resolve("lake" + round));
      System.out.printf(
          "%,d files: deleted in %.2f s, swept in %.2f s%n", FILES, bare[round], swept[round]);
    }
    return Timing.ratio(
        "time of a sweep / of bare deletes", Timing.median(swept) / Timing.median(bare), 2);
  }

  /** Deletes of files that the disk does not have yet cost an eighth. */
  private static void sync() throws IOException {
    try {
      new ProcessBuilder("sync").start().waitFor();
    } catch (InterruptedException e) {
      throw new IllegalStateException(e);
    }
  }

  private static double bare(Path directory) throws IOException {
    Files.createDirectories(directory);
    List<Path> files = new ArrayList<>();
    for (int i = 0; i < FILES; i++) {
      Path file = directory.resolve("000000000-" + UUID.randomUUID() + ".parquet");
      Files.write(file, CONTENT);
      files.add(file);
    }
    sync();
    long start = System.nanoTime();
    for (Path file : files) {
      Files.delete(file);
    }
    return (System.nanoTime() - start) / 1e9;
  }

  private static double swept(Path directory) throws IOException {
    MadeUpFiles made = new MadeUpFiles();
    try (LakeCore core =
        LakeCore.create(
            new LocalStore(directory), NOTE, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      UUID table = made.table(core, "bench.files", FILES);
      VersionPage page =
          VersionPage.read(
              core.refresh().page().table(table, core.pages()).orElseThrow().page(), core.pages());
      List<Touch> gone = new ArrayList<>();
      TreeCursor<FileEntry, ?> files = page.fileTree(core.pages()).cursor();
      Files.createDirectories(directory.resolve(FileEntry.directory(table)));
      while (files.next()) {
        FileEntry file = files.value();
        Files.write(directory.resolve(file.objectName(table)), CONTENT);
        gone.add(new Touch(file, RoaringBitmap.bitmapOfRange(0, file.rows()), true));
      }
      ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
      TableChange change = set.table(table, "bench.files");
      Effect effect = new Effect("delete", List.of(), gone, List.of());
      change.take(effect, change.after(effect));
      set.commit(NOTE);
      Optional<Retention> newest = Optional.of(Retention.EVERYTHING.andNewest(1));
      new ExpiryRun(core, NOTE, newest).runAll();
    }
    sync();
    try (LakeCore core =
        LakeCore.open(new LocalStore(directory), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      long start = System.nanoTime();
      SweepReport report = new SweepRun(core, NOTE, SweepChoice.STANDARD.now()).run();
      double seconds = (System.nanoTime() - start) / 1e9;
      if (report.deleted().get(SweepReport.Kind.FREED).objects() < FILES) {
        throw new IllegalStateException("swept " + report.deleted());
      }
      return seconds;
    }
  }
}
