package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.function.Supplier;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.expr.Condition;
import org.ysteron.history.Changes;
import org.ysteron.history.RowOrigin;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.compare.RowOrigins;
import org.ysteron.internal.compare.VersionChanges;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.form.FormComparison;
import org.ysteron.internal.keys.DuplicateKeys;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.FileTexts;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.internal.upkeep.Bookmarks;
import org.ysteron.internal.upkeep.HealthCheck;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.option.Alteration;
import org.ysteron.option.Check;
import org.ysteron.option.FileChoice;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.DuplicateRow;
import org.ysteron.report.NamedWriter;
import org.ysteron.report.TableFile;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.TableVersion;
import org.ysteron.report.ValueRange;

/** One version of a table. Immutable, thread-safe. */
public final class TableView implements ReadableTable {
  private final LakeCore core;
  private final VersionPage page;
  private final Optional<Supplier<Scan>> scans;

  TableView(LakeCore core, VersionPage page) {
    this(core, page, Optional.empty());
  }

  /** {@code scans}: of the same rows, where a transaction has to know of them. */
  TableView(LakeCore core, VersionPage page, Optional<Supplier<Scan>> scans) {
    this.core = core;
    this.page = page;
    this.scans = scans;
  }

  static TableView of(LakeCore core, PageRef ref) {
    return new TableView(core, VersionPage.read(ref, core.pages()));
  }

  /** The table's name then. */
  @Override
  public String name() {
    return page.name();
  }

  public long version() {
    return page.version();
  }

  /** The columns then. */
  @Override
  public Schema schema() {
    return page.schema();
  }

  @Override
  public TableSettings settings() {
    return page.settings();
  }

  /** When, by whom, what, totals. */
  public TableVersion record() {
    return page.record().told();
  }

  /**
   * Another version of the same table.
   *
   * @throws org.ysteron.error.NotFoundException when there is none; the message names the newest
   * @throws org.ysteron.error.ExpiredException when there was one, and it is not kept any more
   */
  public TableView at(long version) {
    return core.ofNewest(
        now -> {
          TableHistory history = historyOf(now);
          return new TableView(core, history.pageOf(history.byNumber(version)));
        });
  }

  /**
   * The version of the same table that a bookmark names, by itself or with the lake.
   *
   * @throws org.ysteron.error.NotFoundException when there is no such bookmark, or it names no
   *     version of this table
   */
  public TableView atBookmark(String bookmark) {
    return at(core.ofNewest(now -> Bookmarks.versionOf(page.id(), now, bookmark, core.pages())));
  }

  /** This version and those before it, the newest first, at most so many. */
  public List<TableVersion> history(int limit) {
    Limits.notNegative(limit, "limit");
    return core.ofNewest(now -> history(now, limit));
  }

  private List<TableVersion> history(LakeState now, int limit) {
    return historyOf(now).records(page.version(), limit).stream().map(HistoryRecord::told).toList();
  }

  private TableHistory historyOf(LakeState now) {
    TableListing newest =
        now.page()
            .table(page.id(), core.pages())
            .orElseThrow(
                () ->
                    new DamagedException(
                        "The lake in %s does not list table %s (%s), whose version %d it refers to. Restore it from a copy of the lake."
                            .formatted(
                                core.store().location(), page.name(), page.id(), page.version())));
    return TableHistory.of(newest, core.pages());
  }

  /** All data files. */
  public List<TableFile> files() {
    return files(Integer.MAX_VALUE);
  }

  /** The first data files, at most so many. */
  public List<TableFile> files(int limit) {
    Limits.notNegative(limit, "limit");
    FileTexts texts = new FileTexts(page, core.pages());
    return entries(limit).stream().map(texts::told).toList();
  }

  /** The data files of a choice, one after the other. */
  public Results<TableFile> files(FileChoice choice) {
    FileTexts texts = new FileTexts(page, core.pages());
    TreeCursor<FileEntry, ?> cursor =
        page.fileTree(core.pages())
            .cursor(
                below ->
                    choice.takes(below.numbers().greatestBirth(), below.numbers().maskedRows()),
                (leaf, at) -> true);
    return new Results<>(
        () -> {
          while (cursor.next()) {
            FileEntry.Numbers numbers = cursor.value().numbers();
            if (choice.takes(numbers.births().greatest(), numbers.maskedRows())) {
              return texts.told(cursor.value());
            }
          }
          return null;
        },
        () -> {});
  }

  /** The named writers of the table, by name, as of the newest commit. */
  public List<NamedWriter> writers() {
    return core.ofNewest(now -> historyOf(now).writers());
  }

  /** What this version's files are like, and what would help; opens none. */
  public TableHealth health() {
    return new HealthCheck(page, core.reading()).run();
  }

  /**
   * What the values of this version, or of one before it, were like; empty when none was measured.
   */
  public Optional<TableStatistics> statistics() {
    return page.statisticsPage(core.pages()).map(found -> found.told(page.schema()));
  }

  /**
   * Bounds of a column's values, known without reading a file: no value lies outside of them, and
   * none needs to be at them. Empty when nothing is known.
   *
   * @throws org.ysteron.error.NotFoundException when there is no such column
   */
  public Optional<ValueRange> range(String column) {
    return summary(column, page.fileTree(core.pages()).summary())
        .filter(range -> range.state() == ColumnRange.State.BOUNDED)
        .map(ColumnRange::told);
  }

  /**
   * The least and the greatest value of a column and how many are null, exactly, known without
   * reading a file. Empty when metadata does not tell: for other types than whole numbers, decimals
   * of at most 18 digits, dates and times, where rows were deleted since their files were written,
   * and where some rows are older than the column.
   *
   * @throws org.ysteron.error.NotFoundException when there is no such column
   */
  public Optional<ValueRange> exactRange(String column) {
    Optional<FileSummary> files = page.fileTree(core.pages()).summary();
    return summary(column, files.filter(of -> of.numbers().maskedRows() == 0))
        .filter(ColumnRange::isExact)
        .map(ColumnRange::told);
  }

  /** What is known of a column of this version in files, which may have been of a narrower type. */
  private Optional<ColumnRange> summary(String column, Optional<FileSummary> files) {
    List<Field> along = page.schema().resolve(column);
    Field field = along.get(along.size() - 1);
    return files.map(of -> of.range(field.id()).widen(field.type()));
  }

  VersionPage page() {
    return page;
  }

  List<FileEntry> entries() {
    return entries(Integer.MAX_VALUE);
  }

  private List<FileEntry> entries(int limit) {
    List<FileEntry> files = new ArrayList<>();
    TreeCursor<FileEntry, ?> cursor = page.fileTree(core.pages()).cursor();
    while (files.size() < limit && cursor.next()) {
      files.add(cursor.value());
    }
    return files;
  }

  /**
   * This version's rows by the columns of another version, such as the newest: what that has
   * dropped is not there, what it has added has its default, and what it has renamed or widened is
   * so.
   */
  public TableView bySchemaOf(TableView other) {
    return new TableView(core, page.readBy(other.page));
  }

  /** What makes this version's columns, constraints and layout into those of another version. */
  public List<Alteration> alterationsTo(TableView later) {
    return page.id().equals(later.page.id())
        ? FormComparison.ofVersions(page.form(), later.page.form())
        : FormComparison.ofTables(page.form(), later.page.form());
  }

  /**
   * What differs between this version and another one of the same table, as the way from this one
   * to the other one; the other one may be earlier or later.
   *
   * @throws org.ysteron.error.InvalidInputException when the other one is of another table
   */
  public Changes changesTo(TableView other) {
    return VersionChanges.between(core, page, other.page);
  }

  /** Counts the schemas of the table, from 0. */
  public long schemaVersion() {
    return page.form().schemaVersion();
  }

  @Override
  public List<Check> checks() {
    return page.form().checks();
  }

  @Override
  public Optional<Field> leftoversColumn() {
    return page.form().leftoversColumn();
  }

  @Override
  public LayoutPlan layout() {
    return page.form().layout().plan(page.schema());
  }

  /** Counts the layouts of the table, from 0. */
  public long layoutVersion() {
    return page.form().layoutVersion();
  }

  /** All layouts that the table has or had, by their versions. */
  public SortedMap<Long, LayoutPlan> layouts() {
    SortedMap<Long, LayoutPlan> plans = new TreeMap<>();
    page.layouts(core.pages())
        .forEach((version, layout) -> plans.put(version, layout.plan(page.schema())));
    return plans;
  }

  /** How many files there are of a layout. */
  public long filesOfLayout(long layout) {
    return page.filesOfLayout(layout, core.pages());
  }

  /**
   * Rows that share their primary key with another one, which can be where not every write tests
   * keys.
   *
   * @param most so many keys at most
   */
  public List<DuplicateRow> duplicates(int most) {
    Limits.notNegative(most, "limit");
    return DuplicateKeys.of(core.reading(), page, most);
  }

  /**
   * For the rows that fulfil a condition: which version inserted each, and which last changed it.
   * Nothing was recorded for it beforehand, and no other version's data is read.
   *
   * @param columns the columns to show, by path; all when there are none
   */
  public Results<RowOrigin> origins(Condition condition, String... columns) {
    return core.ofNewest(
        now -> RowOrigins.of(core, historyOf(now), page, condition, List.of(columns)));
  }

  /**
   * Whether this is a table as a transaction sees it. Then scans are reads of the transaction, and
   * what metadata tells of its rows is not.
   */
  public boolean isOfTransaction() {
    return scans.isPresent();
  }

  @Override
  public Scan scan() {
    return scans.map(Supplier::get).orElseGet(() -> new Scan(core.reading(), page));
  }
}
