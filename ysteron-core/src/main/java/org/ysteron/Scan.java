package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.Explainer;
import org.ysteron.internal.read.Located;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.RowSupplier;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.read.TableScan;
import org.ysteron.internal.remote.ScanForm;
import org.ysteron.internal.rows.RecordBinding;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.report.Explanation;
import org.ysteron.task.ScanTask;

/**
 * A scan of one version of a table. Immutable: each method returns another one. Thread-safe.
 *
 * <p>As the source of a merge, a scan that was started on a {@link Table} reads the state on which
 * the merge runs ({@link MergeSource#scan}); every other scan keeps its version.
 */
public final class Scan {
  private final ReadContext context;
  private final VersionPage table;
  private final Condition condition;
  private final List<String> columns;
  private final long limit;
  private final Consumer<Condition> onRead;
  private final Optional<Followed> followed;
  private final Optional<Located> located;

  /** The table whose newest version is scanned, whichever it is. */
  private record Followed(LakeCore core, UUID id, String name) {}

  Scan(ReadContext context, VersionPage table) {
    this(context, table, condition -> {});
  }

  /** {@code onRead}: is told the condition each time when rows are read or counted. */
  Scan(ReadContext context, VersionPage table, Consumer<Condition> onRead) {
    this(
        context,
        table,
        Condition.all(),
        List.of(),
        Long.MAX_VALUE,
        onRead,
        Optional.empty(),
        Optional.empty());
  }

  private Scan(
      ReadContext context,
      VersionPage table,
      Condition condition,
      List<String> columns,
      long limit,
      Consumer<Condition> onRead,
      Optional<Followed> followed,
      Optional<Located> located) {
    this.located = located;
    this.followed = followed;
    this.onRead = onRead;
    this.context = context;
    this.table = table;
    this.condition = condition;
    this.columns = columns;
    this.limit = limit;
  }

  /** The same scan, of a table whose newest version this one is. */
  Scan following(LakeCore core, UUID id, String name) {
    return new Scan(
        context,
        table,
        condition,
        columns,
        limit,
        onRead,
        Optional.of(new Followed(core, id, name)),
        located);
  }

  /** The same scan, which tells where rows are in two columns behind the others. */
  Scan located(Located places) {
    return new Scan(
        context, table, condition, columns, limit, onRead, followed, Optional.of(places));
  }

  /** Whether what is scanned is a table of a lake that is open here, not one version of it. */
  boolean follows(LakeCore core) {
    return followed.filter(table -> table.core.isSameLake(core)).isPresent();
  }

  /** The same scan of the table as the transaction of a change sees it, which is told of it. */
  Scan within(TableChange change) {
    TableChange seen = change.other(followed.orElseThrow().id, followed.orElseThrow().name);
    return new Scan(
        seen.context(),
        seen.draft(),
        condition,
        columns,
        limit,
        seen::reads,
        Optional.empty(),
        Optional.empty());
  }

  /** Only rows for which a condition is true; with an earlier one, both. */
  @CheckReturnValue
  public Scan where(Condition also) {
    return new Scan(context, table, condition.and(also), columns, limit, onRead, followed, located);
  }

  /** Only these columns, by path, in this order. */
  @CheckReturnValue
  public Scan columns(String... paths) {
    return columns(List.of(paths));
  }

  /** Only these columns, by path, in this order. */
  @CheckReturnValue
  public Scan columns(List<String> paths) {
    return new Scan(
        context, table, condition, List.copyOf(paths), limit, onRead, followed, located);
  }

  /** At most so many rows. */
  @CheckReturnValue
  public Scan limit(long rows) {
    Limits.notNegative(rows, "limit");
    return new Scan(context, table, condition, columns, rows, onRead, followed, located);
  }

  /** Whether two columns behind the others tell where rows are. */
  public boolean isLocated() {
    return located.isPresent();
  }

  /** The columns that the rows will have. */
  public Schema schema() {
    Schema read = read();
    return located.map(places -> places.with(read)).orElse(read);
  }

  /** The columns of the table that are read. */
  private Schema read() {
    return columns.isEmpty() ? table.schema() : table.schema().select(columns);
  }

  private Filter filter(Condition fixed) {
    return table.filter(fixed, context.pages());
  }

  /** The condition of a scan that begins, which who has to know it is told. */
  private Condition begin() {
    Condition fixed = context.fixed(condition);
    onRead.accept(fixed);
    return fixed;
  }

  private TableScan start() {
    return new TableScan(context, table, read(), filter(begin()), limit);
  }

  /** The rows by column. */
  public Results<Batch> batches() {
    TableScan scan = start();
    return new Results<>(() -> scan.next().orElse(null), scan::close);
  }

  /**
   * The rows by column, in batches that may have other rows as well and say which count. This saves
   * copying them together where many rows pass, for who goes through them only once.
   */
  public Results<SelectedBatch> selectedBatches() {
    Source<SelectedBatch> scan =
        TableScan.carrying(context, table, read(), filter(begin()), limit, located);
    return new Results<>(() -> scan.next().orElse(null), scan::close);
  }

  /**
   * The rows by column, shared among several results that can be read at the same time, each by one
   * thread; which rows are in which is not determined. A {@linkplain #limit limit} does not count.
   *
   * @param count how many results
   */
  public List<Results<SelectedBatch>> selectedBatches(int count) {
    List<Results<SelectedBatch>> parts = new ArrayList<>();
    for (Source<SelectedBatch> scan :
        TableScan.shared(context, table, read(), filter(begin()), count, located)) {
      parts.add(new Results<>(() -> scan.next().orElse(null), scan::close));
    }
    return parts;
  }

  /** The rows one by one, as views on batches. */
  public Results<Row> rows() {
    TableScan scan = start();
    RowSupplier rows = new RowSupplier(scan);
    return new Results<>(rows::next, scan::close);
  }

  /** The rows as records, whose components are bound to the columns by name. */
  public <R extends Record> Results<R> records(Class<R> type) {
    RecordBinding<R> binding = RecordBinding.forReading(type, schema().struct());
    TableScan scan = start();
    RowSupplier rows = new RowSupplier(scan);
    return new Results<>(
        () -> {
          Row row = rows.next();
          return row == null ? null : binding.toRecord(row);
        },
        scan::close);
  }

  /**
   * The scan in parts, one for each data file that it opens, in the order of its rows. Each can be
   * read by a process that has nothing but the store; a {@linkplain #limit limit} does not count.
   */
  public List<ScanTask> tasks() {
    Condition fixed = begin();
    List<ScanTask> tasks = new ArrayList<>();
    new ScanPlan(table, filter(fixed), context)
        .each(
            task ->
                tasks.add(
                    ScanTask.of(ScanForm.of(table, task, columns, fixed, context).toBytes())));
    return tasks;
  }

  /** How many rows pass; files that pass as a whole are not read. */
  public long count() {
    return new org.ysteron.internal.read.Counter(context, table, filter(begin())).count(limit);
  }

  /** What would be read and what skipped, and why; no rows are read. */
  public Explanation explain() {
    return Explainer.explain(context, table, filter(context.fixed(condition)));
  }
}
