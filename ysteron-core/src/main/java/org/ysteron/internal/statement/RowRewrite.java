package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.expr.Condition;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;

/**
 * Moves rows to new files by the newest layout; no row changes. Whole files are moved, some hundred
 * megabytes of them together, so that rows that belong together come together.
 */
public final class RowRewrite {
  private static final long MOST_BYTES = 512L << 20;

  private RowRewrite() {}

  /**
   * Rewrites files.
   *
   * @param condition of those files that may hold rows for which it is true
   * @param among only of files that pass it
   */
  public static ChangeReport run(
      TableChange table, Condition condition, Predicate<FileEntry> among) {
    Filter filter = table.draft().filter(condition, table.context().pages());
    List<List<FileEntry>> groups = new ArrayList<>();
    long[] bytes = {MOST_BYTES};
    new ScanPlan(table.draft(), filter, table.context())
        .each(
            task -> {
              if (among.test(task.entry())) {
                if (bytes[0] >= MOST_BYTES) {
                  groups.add(new ArrayList<>());
                  bytes[0] = 0;
                }
                groups.get(groups.size() - 1).add(task.entry());
                bytes[0] += task.entry().size();
              }
            });
    Watch.Step step =
        table
            .context()
            .watch()
            .step(
                "rewrite files", Progress.Unit.FILES, groups.stream().mapToLong(List::size).sum());
    List<StagedFile> moved = new ArrayList<>();
    List<Touch> touches = new ArrayList<>();
    long written = 0;
    for (List<FileEntry> group : groups) {
      moved.addAll(move(table, group));
      step.add(group.size());
      for (FileEntry file : group) {
        // Of a file of this transaction nothing is left; nobody else's removals can follow it.
        RoaringBitmap gone = table.isOwn(file) ? table.live(file) : new RoaringBitmap();
        touches.add(new Touch(file, gone, true));
      }
    }
    for (StagedFile file : moved) {
      written += file.size();
    }
    if (!touches.isEmpty()) {
      Effect effect = new Effect("rewrite", moved, touches, List.of());
      table.take(effect, table.after(effect));
    }
    return new ChangeReport(0, 0, 0, 0, 0, 0, touches.size(), moved.size(), written);
  }

  private static List<StagedFile> move(TableChange table, List<FileEntry> files) {
    TableWriter writer = table.movingWriter();
    new RowMoves(table, writer).moveAll(files, file -> {});
    return RowMoves.moved(table, files, writer);
  }
}
