package org.ysteron.internal.upkeep;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.layout.Curve;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.maintenance.TableHealth.Kind;
import org.ysteron.store.ObjectStore;

/** Looks at what a version's files are like, without opening one. For one thread. */
public final class HealthCheck {
  private static final int LISTED_AT_ONCE = 100_000;
  private static final int RANGES = 8;

  private final VersionPage table;
  private final ReadContext context;
  private final PackPolicy policy;
  private final Map<Kind, long[]> sums = new EnumMap<>(Kind.class);

  /** Of a version. */
  public HealthCheck(VersionPage table, ReadContext context) {
    this.table = table;
    this.context = context;
    this.policy = PackPlan.policy(table, false);
  }

  /** What was found. */
  public TableHealth run() {
    PageTree<FileEntry, FileSummary> tree = table.fileTree(context.pages());
    TreeCursor<FileEntry, FileSummary> files = tree.cursor().ahead(context.workers());
    long bytes = 0;
    while (files.next()) {
      look(files.value());
      bytes += files.value().size();
    }
    List<TableHealth.Finding> findings = new ArrayList<>();
    long[] small = sums.getOrDefault(Kind.SMALL_FILES, new long[1]);
    if (small[0] == 1) {
      sums.remove(Kind.SMALL_FILES); // there has to be one, unless sizes come out even
    }
    Map<Boolean, Planned> plans = new HashMap<>();
    sums.forEach(
        (kind, sum) ->
            findings.add(
                finding(kind, sum, plans.computeIfAbsent(isRenewed(kind), this::planned))));
    findings.sort(Comparator.comparingLong(TableHealth.Finding::bytes).reversed());
    PageTree.Footprint print = tree.footprint();
    return new TableHealth(
        table.name(),
        table.version(),
        table.record().told().totals(),
        findings,
        new TableHealth.Metadata(tree.root().height(), print.pages(), print.bytes()),
        Math.max(0, stored() - bytes),
        openings());
  }

  /** Of each column of the curve, and of the first two together. */
  private List<TableHealth.Opening> openings() {
    List<TableHealth.Opening> openings = new ArrayList<>();
    Optional<Curve> curve = table.form().layout().curve().filter(Curve::isPlaced);
    if (curve.isPresent()) {
      List<Curve.Axis> axes = curve.get().axes();
      axes.forEach(axis -> openings.add(opening(List.of(axis))));
      openings.add(opening(axes.subList(0, 2)));
    }
    return openings;
  }

  private TableHealth.Opening opening(List<Curve.Axis> axes) {
    List<String> paths = axes.stream().map(axis -> table.schema().pathOf(axis.fieldId())).toList();
    long[] opened = {0};
    for (int at = 0; at < RANGES; at++) {
      Condition condition = Condition.all();
      for (int i = 0; i < axes.size(); i++) {
        List<Object> quantiles = axes.get(i).quantiles();
        // Other places of the second column than of the first, which may depend on each other.
        int from = (at * (i == 0 ? 1 : 3) % RANGES) * Math.max(0, quantiles.size() - 2) / RANGES;
        Object to = quantiles.get(Math.min(from + 1, quantiles.size() - 1));
        condition = condition.and(Condition.column(paths.get(i)).between(quantiles.get(from), to));
      }
      Filter filter = table.filter(condition, context.pages());
      new ScanPlan(table, filter, context).each(file -> opened[0]++);
    }
    return new TableHealth.Opening(paths, (double) opened[0] / RANGES);
  }

  private void look(FileEntry file) {
    FileEntry.Numbers numbers = file.numbers();
    boolean isSmall = !policy.isFull(PackPlan.packable(file));
    count(Kind.SMALL_FILES, isSmall, file, file.liveRows());
    count(Kind.MASKED_ROWS, numbers.maskedRows() > 0, file, numbers.maskedRows());
    boolean isOld = numbers.layout() != table.layoutVersion();
    count(Kind.OLD_LAYOUT, isOld, file, file.liveRows());
    boolean hasOldSchema = numbers.schema() != table.schemaVersion();
    count(Kind.OLD_SCHEMA, hasOldSchema, file, file.liveRows());
    count(Kind.OUT_OF_ORDER, PackPlan.isOutOfOrder(file, table), file, file.liveRows());
  }

  private void count(Kind kind, boolean isSo, FileEntry file, long rows) {
    if (isSo) {
      long[] sum = sums.computeIfAbsent(kind, k -> new long[4]);
      sum[0]++;
      sum[1] += file.size();
      sum[2] += rows;
      sum[3] += file.rows();
    }
  }

  /** What a compaction would read, and how many files it would leave of how many. */
  private record Planned(long bytes, long files, long groups) {}

  private Planned planned(boolean renews) {
    PackChoice choice = renews ? PackChoice.STANDARD.renewing() : PackChoice.STANDARD;
    PackPlan plan = new PackPlan(table, choice, Set.of(), context);
    long bytes = 0;
    long files = 0;
    long groups = 0;
    for (Optional<List<FileEntry>> group = plan.next(); group.isPresent(); group = plan.next()) {
      bytes += group.get().stream().mapToLong(FileEntry::size).sum();
      files += group.get().size();
      groups++;
    }
    return new Planned(bytes, files, groups);
  }

  /** Whether what helps is to renew files, not only to pack them. */
  private static boolean isRenewed(Kind kind) {
    return kind != Kind.SMALL_FILES && kind != Kind.MASKED_ROWS;
  }

  private static TableHealth.Finding finding(Kind kind, long[] sum, Planned planned) {
    long savedFiles = kind == Kind.SMALL_FILES ? planned.files - planned.groups : 0;
    long savedBytes =
        kind == Kind.MASKED_ROWS && planned.files > 0 ? sum[1] * sum[2] / Math.max(1, sum[3]) : 0;
    return new TableHealth.Finding(
        kind, sum[0], sum[1], sum[2], planned.bytes, savedFiles, savedBytes);
  }

  /** The bytes of all data files of the table in the store. */
  private long stored() {
    String directory = FileEntry.directory(table.id());
    long bytes = 0;
    String after = "";
    List<ObjectStore.Child> some = context.store().list(directory, after, LISTED_AT_ONCE);
    while (!some.isEmpty()) {
      bytes += some.stream().mapToLong(ObjectStore.Child::size).sum();
      after = some.get(some.size() - 1).segment();
      some = context.store().list(directory, after, LISTED_AT_ONCE);
    }
    return bytes;
  }
}
