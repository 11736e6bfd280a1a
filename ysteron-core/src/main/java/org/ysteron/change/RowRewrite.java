package org.ysteron.change;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Filter;
import org.ysteron.read.ScanPlan;
import org.ysteron.table.FileEntry;
import org.ysteron.table.StagedFile;

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
   * @param olderOnly only of files of layouts before the newest
   */
  public static ChangeReport run(TableChange table, Condition condition, boolean olderOnly) {
    Filter filter = table.draft().filter(condition, table.context().pages());
    ScanPlan plan = new ScanPlan(table.draft(), filter, table.context().pages());
    long layout = table.draft().layoutVersion();
    List<List<FileEntry>> groups = new ArrayList<>();
    long bytes = MOST_BYTES;
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent()) {
      FileEntry file = task.get().entry();
      if (!olderOnly || file.numbers().layout() != layout) {
        if (bytes >= MOST_BYTES) {
          groups.add(new ArrayList<>());
          bytes = 0;
        }
        groups.get(groups.size() - 1).add(file);
        bytes += file.size();
      }
      task = plan.next();
    }
    List<StagedFile> moved = new ArrayList<>();
    List<Touch> touches = new ArrayList<>();
    long written = 0;
    for (List<FileEntry> group : groups) {
      moved.addAll(move(table, group));
      group.forEach(file -> touches.add(new Touch(file, new RoaringBitmap(), true)));
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
    long birth = 0;
    Set<Long> numbers = new TreeSet<>();
    for (FileEntry file : files) {
      Touching.move(table, file, Touching.live(table, file), writer);
      birth = Math.max(birth, file.numbers().birth());
      numbers.add(file.numbers().number());
    }
    StagedFile.Origin origin =
        new StagedFile.Origin(birth, files.get(0).numbers().place(), numbers);
    return writer.finish().stream().map(staged -> staged.from(origin)).toList();
  }
}
