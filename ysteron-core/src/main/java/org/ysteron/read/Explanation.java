package org.ysteron.read;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Type;
import org.ysteron.expr.Filter;
import org.ysteron.expr.Ranges;
import org.ysteron.file.DataFileReader;
import org.ysteron.table.FileEntry;
import org.ysteron.table.FileFormat;
import org.ysteron.table.FileSummary;
import org.ysteron.table.Layout;
import org.ysteron.table.VersionPage;
import org.ysteron.tree.PageTree;
import org.ysteron.tree.TreeCursor;

/**
 * What a scan would read and skip at each level.
 *
 * @param table the table's name
 * @param version the version
 * @param condition the condition as text
 * @param files data files of the version
 * @param filesInSkippedSubtrees those that a subtree's summary ruled out, unseen
 * @param subtreesSkipped such subtrees
 * @param filesSkipped those that their own ranges ruled out
 * @param reasons for those two kinds, how many each column rules out by itself
 * @param filesWhole files of which every row passes
 * @param filesFiltered files of which each row is tested
 * @param bytes of the files to read
 * @param rows in the files to read
 * @param groups row groups of the filtered files
 * @param groupsSkipped row groups that their statistics rule out
 * @param runs runs of rows between page boundaries in the row groups left
 * @param runsSkipped runs that the page index rules out
 * @param pagesRead metadata pages that were read to plan
 * @param layouts of each layout that has files, when there are partitions or several layouts
 */
public record Explanation(
    String table,
    long version,
    String condition,
    long files,
    long filesInSkippedSubtrees,
    long subtreesSkipped,
    long filesSkipped,
    Map<String, Long> reasons,
    long filesWhole,
    long filesFiltered,
    long bytes,
    long rows,
    long groups,
    long groupsSkipped,
    long runs,
    long runsSkipped,
    long pagesRead,
    List<OfLayout> layouts) {

  /**
   * The files of one layout.
   *
   * @param layout its version
   * @param text what it is
   * @param files how many files it has
   * @param filesRead how many of them are to be read
   */
  public record OfLayout(long layout, String text, long files, long filesRead) {}

  /** Plans a scan and looks at the row groups and page indexes of the files it leaves. */
  public static Explanation of(ReadContext context, VersionPage table, Filter filter) {
    long pagesBefore = context.pages().pagesRead();
    ScanPlan plan = new ScanPlan(table, filter, context.pages());
    long[] sums = new long[8];
    Map<Long, Long> byLayout = new TreeMap<>();
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent()) {
      sums[task.get().filtered() ? 1 : 0]++;
      byLayout.merge(task.get().entry().numbers().layout(), 1L, Long::sum);
      sums[2] += task.get().entry().size();
      sums[3] += task.get().entry().rows();
      if (task.get().filtered()) {
        lookInside(context, table, task.get(), filter, sums);
      }
      task = plan.next();
    }
    long pagesRead = context.pages().pagesRead() - pagesBefore;
    return new Explanation(
        table.name(),
        table.version(),
        filter.toString(),
        table.files().count(),
        plan.skippedBelow(),
        plan.skippedSubtrees(),
        plan.skippedFiles(),
        reasons(context, table, filter),
        sums[0],
        sums[1],
        sums[2],
        sums[3],
        sums[4],
        sums[5],
        sums[6],
        sums[7],
        pagesRead,
        layouts(context, table, byLayout));
  }

  private static List<OfLayout> layouts(
      ReadContext context, VersionPage table, Map<Long, Long> read) {
    Map<Long, Layout> all = table.layouts(context.pages());
    if (all.size() == 1 && table.form().layout().rules().isEmpty()) {
      return List.of();
    }
    List<OfLayout> layouts = new ArrayList<>();
    all.forEach(
        (number, layout) -> {
          long files = table.filesOfLayout(number, context.pages());
          if (files > 0) {
            String text = layout.text(table.schema());
            layouts.add(new OfLayout(number, text, files, read.getOrDefault(number, 0L)));
          }
        });
    return layouts;
  }

  private static void lookInside(
      ReadContext context, VersionPage table, ScanPlan.Task task, Filter filter, long[] sums) {
    Type.Struct nothing = new Type.Struct(List.of());
    try (DataFileReader reader =
        new DataFileReader(
            context.store(), task.file(), table.id(), nothing, filter, context.footers())) {
      DataFileReader.Statistics inside = reader.explain();
      sums[4] += inside.groups();
      sums[5] += inside.groupsSkipped();
      sums[6] += inside.pageRuns();
      sums[7] += inside.pageRunsSkipped();
    }
  }

  /** Walks the tree again, asking of all that is ruled out which columns do it alone. */
  private static Map<String, Long> reasons(ReadContext context, VersionPage table, Filter filter) {
    Map<String, Long> reasons = new TreeMap<>();
    if (filter.isTrivial()) {
      return reasons;
    }
    PageTree<FileEntry, FileSummary> tree = table.fileTree(context.pages());
    TreeCursor<FileEntry, FileSummary> cursor =
        tree.cursor(
            summary -> {
              List<String> columns = excludedBy(filter, summary);
              columns.forEach(column -> reasons.merge(column + " (subtrees)", 1L, Long::sum));
              return columns.isEmpty();
            },
            (leaf, at) -> {
              List<String> columns = excludedBy(filter, FileFormat.rangesAt(leaf, at));
              columns.forEach(column -> reasons.merge(column, 1L, Long::sum));
              return false;
            });
    while (cursor.next()) {
      throw new IllegalStateException("no entry passes here");
    }
    return new LinkedHashMap<>(reasons);
  }

  private static List<String> excludedBy(Filter filter, Ranges ranges) {
    List<String> columns = filter.excludedBy(ranges);
    if (columns.isEmpty() && filter.excludesParts(ranges)) {
      return List.of("partition");
    }
    return columns;
  }
}
