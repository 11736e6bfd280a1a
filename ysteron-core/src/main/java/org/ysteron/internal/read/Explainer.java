package org.ysteron.internal.read;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Type;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Ranges;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.report.Explanation;

/** Says what a scan would read and skip, and why. For one thread, once. */
public final class Explainer {
  /** In the place of a column's name, of which none is empty. */
  private static final String PARTITION = "";

  private static final int SUBTREES = 0;
  private static final int FILES = 1;

  private final ReadContext context;
  private final VersionPage table;
  private final Filter filter;
  private final Map<Long, Long> readByLayout = new TreeMap<>();
  private long filesWhole;
  private long filesFiltered;
  private long bytes;
  private long rows;
  private long groups;
  private long groupsSkipped;
  private long runs;
  private long runsSkipped;

  private Explainer(ReadContext context, VersionPage table, Filter filter) {
    this.context = context;
    this.table = table;
    this.filter = filter;
  }

  /** Plans a scan and looks at the row groups and page indexes of the files it leaves. */
  public static Explanation explain(ReadContext context, VersionPage table, Filter filter) {
    return new Explainer(context, table, filter).explain();
  }

  private Explanation explain() {
    long pagesBefore = context.pages().pagesRead();
    ScanPlan plan = new ScanPlan(table, filter, context);
    plan.each(this::look);
    long pagesRead = context.pages().pagesRead() - pagesBefore;
    return new Explanation(
        table.name(),
        table.version(),
        filter.toString(),
        new Explanation.Skipped(plan.skippedSubtrees(), plan.skippedBelow(), plan.skippedFiles()),
        new Explanation.Opened(filesWhole, filesFiltered, bytes, rows),
        new Explanation.Tested(groups, groupsSkipped),
        new Explanation.Tested(runs, runsSkipped),
        reasons(),
        pagesRead,
        layouts());
  }

  private void look(ScanPlan.Task task) {
    readByLayout.merge(task.entry().numbers().layout(), 1L, Long::sum);
    bytes += task.entry().size();
    rows += task.entry().rows();
    if (task.filtered()) {
      filesFiltered++;
      lookInside(task);
    } else {
      filesWhole++;
    }
  }

  private void lookInside(ScanPlan.Task task) {
    Type.Struct nothing = new Type.Struct(List.of());
    try (DataFileReader reader =
        new DataFileReader(
            context.store(), task.file(), table.id(), nothing, filter, context.footers())) {
      DataFileReader.Statistics inside = reader.explain();
      groups += inside.groups();
      groupsSkipped += inside.groupsSkipped();
      runs += inside.pageRuns();
      runsSkipped += inside.pageRunsSkipped();
    }
  }

  private List<Explanation.OfLayout> layouts() {
    Map<Long, Layout> all = table.layouts(context.pages());
    if (all.size() == 1 && table.form().layout().rules().isEmpty()) {
      return List.of();
    }
    List<Explanation.OfLayout> layouts = new ArrayList<>();
    all.forEach(
        (number, layout) -> {
          long files = table.filesOfLayout(number, context.pages());
          if (files > 0) {
            String text = layout.text(table.schema());
            long read = readByLayout.getOrDefault(number, 0L);
            layouts.add(new Explanation.OfLayout(number, text, files, read));
          }
        });
    return layouts;
  }

  /** Walks the tree again, asking of all that is ruled out which columns do it alone. */
  private List<Explanation.Reason> reasons() {
    if (filter.isTrivial()) {
      return List.of();
    }
    Map<String, long[]> byColumn = new TreeMap<>();
    PageTree<FileEntry, FileSummary> tree = table.fileTree(context.pages());
    TreeCursor<FileEntry, FileSummary> cursor =
        tree.cursor(
            summary -> !isExcluded(summary, SUBTREES, byColumn),
            (leaf, at) -> {
              isExcluded(FileFormat.rangesAt(leaf, at), FILES, byColumn);
              return false;
            });
    while (cursor.next()) {
      throw new IllegalStateException("no entry passes here");
    }
    List<Explanation.Reason> reasons = new ArrayList<>();
    byColumn.forEach(
        (column, counts) ->
            reasons.add(
                new Explanation.Reason(
                    Optional.of(column).filter(name -> !name.equals(PARTITION)),
                    counts[SUBTREES],
                    counts[FILES])));
    return reasons;
  }

  /** Whether anything rules out what has some ranges; counts all that does so alone. */
  private boolean isExcluded(Ranges ranges, int what, Map<String, long[]> byColumn) {
    List<String> columns = filter.excludedBy(ranges);
    if (columns.isEmpty() && filter.excludesParts(ranges)) {
      columns = List.of(PARTITION);
    }
    columns.forEach(column -> byColumn.computeIfAbsent(column, c -> new long[2])[what]++);
    return !columns.isEmpty();
  }
}
