package org.ysteron.internal.compare;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Function;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeStep;
import org.ysteron.history.ChangeSummary;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.Changes;
import org.ysteron.internal.changes.ChangeFinder;
import org.ysteron.internal.changes.ChangeTotals;
import org.ysteron.internal.changes.ChangedRows;
import org.ysteron.internal.changes.Comparison;
import org.ysteron.internal.changes.RowChanges;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileTexts;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.report.TableVersion;

/** What differs between two versions of a table. Immutable, thread-safe. */
public final class VersionChanges implements Changes {
  private final LakeCore core;
  private final VersionPage from;
  private final VersionPage to;
  private final VersionPage named;
  private final Condition condition;
  private final List<String> columns;
  private final OptionalLong memory;

  private VersionChanges(
      LakeCore core,
      VersionPage from,
      VersionPage to,
      VersionPage named,
      Condition condition,
      List<String> columns,
      OptionalLong memory) {
    this.core = core;
    this.from = from;
    this.to = to;
    this.named = named;
    this.condition = condition;
    this.columns = columns;
    this.memory = memory;
  }

  /**
   * What differs between two versions.
   *
   * @throws InvalidInputException when they are versions of two tables
   */
  public static VersionChanges between(LakeCore core, VersionPage from, VersionPage to) {
    if (!from.id().equals(to.id())) {
      throw new InvalidInputException(
          "Version %d of table %s (%s) and version %d of table %s (%s) cannot be compared: they are versions of two tables%s."
              .formatted(
                  from.version(),
                  from.name(),
                  from.id(),
                  to.version(),
                  to.name(),
                  to.id(),
                  from.name().equals(to.name()) ? ", one of which was dropped" : ""));
    }
    VersionPage newer = from.version() > to.version() ? from : to;
    return new VersionChanges(
        core, from, to, newer, Condition.all(), List.of(), OptionalLong.empty());
  }

  private Comparison comparison() {
    Comparison all = Comparison.of(core.reading(), from, to, named, condition, columns);
    return memory.isEmpty() ? all : all.inMemory(memory.getAsLong());
  }

  /** The same in so many bytes of memory, or what is needed at least. */
  public VersionChanges inMemory(long bytes) {
    return new VersionChanges(core, from, to, named, condition, columns, OptionalLong.of(bytes));
  }

  @Override
  public TableVersion from() {
    return from.record().told();
  }

  @Override
  public TableVersion to() {
    return to.record().told();
  }

  @Override
  public Schema schema() {
    return comparison().shown();
  }

  @Override
  public Changes where(Condition also) {
    return new VersionChanges(core, from, to, named, condition.and(also), columns, memory);
  }

  @Override
  public Changes columns(String... paths) {
    return columns(List.of(paths));
  }

  @Override
  public Changes columns(List<String> paths) {
    return new VersionChanges(core, from, to, named, condition, List.copyOf(paths), memory);
  }

  @Override
  public Changes withColumnsOf(long version) {
    VersionPage other = ofHistory(history -> history.pageOf(history.byNumber(version)));
    return new VersionChanges(core, from, to, other, condition, columns, memory);
  }

  private <T> T ofHistory(Function<TableHistory, T> what) {
    return core.ofNewest(
        now -> {
          TableListing listing =
              now.page()
                  .table(from.id(), core.pages())
                  .orElseThrow(
                      () ->
                          new NotFoundException(
                              NotFoundException.Kind.TABLE,
                              from.name(),
                              "There is no table " + from.name() + " any more."));
          return what.apply(TableHistory.of(listing, core.pages()));
        });
  }

  @Override
  public ChangeCounts count() {
    RowChanges changes = ChangeFinder.find(comparison());
    long again = RowChanges.rows(changes.after());
    return new ChangeCounts(
        RowChanges.rows(changes.inserted()),
        RowChanges.rows(changes.deleted()),
        again,
        0,
        again == 0);
  }

  @Override
  public ChangeCounts countExactly() {
    Comparison comparison = comparison();
    RowChanges changes = ChangeFinder.find(comparison);
    RowChanges again = changes.onlyWrittenAgain();
    long updated = 0;
    try (ChangedRows rows = new ChangedRows(comparison, again)) {
      for (Optional<ChangedRows.Changed> each = rows.next(); each.isPresent(); each = rows.next()) {
        updated += each.get().batch().size();
      }
      return new ChangeCounts(
          RowChanges.rows(changes.inserted()),
          RowChanges.rows(changes.deleted()),
          updated,
          rows.same(),
          true);
    }
  }

  @Override
  public ChangeSummary summary() {
    Comparison comparison = comparison();
    ChangeTotals totals =
        new ChangeTotals(
            comparison, new FileTexts(from, core.pages()), new FileTexts(to, core.pages()));
    return totals.of(new ChangedRows(comparison, ChangeFinder.find(comparison)));
  }

  @Override
  public Results<ChangeBatch> batches() {
    Comparison comparison = comparison();
    ChangedRows rows = new ChangedRows(comparison, ChangeFinder.find(comparison));
    return new Results<>(
        () -> rows.next().map(ChangedRows.Changed::batch).orElse(null), rows::close);
  }

  @Override
  public Results<ChangedRow> rows() {
    Results<ChangeBatch> batches = batches();
    return new Results<>(new RowByRow(batches)::next, batches::close);
  }

  /** Rows of one batch after the other. For one thread. */
  private static final class RowByRow {
    private final Results<ChangeBatch> batches;
    private ChangeBatch batch;
    private int next;

    RowByRow(Results<ChangeBatch> batches) {
      this.batches = batches;
    }

    ChangedRow next() {
      while (batch == null || next == batch.size()) {
        Optional<ChangeBatch> more = batches.next();
        if (more.isEmpty()) {
          return null;
        }
        batch = more.get();
        next = 0;
      }
      return batch.row(next++);
    }
  }

  @Override
  public Schema flatSchema() {
    return FlatChanges.schema(schema());
  }

  @Override
  public Results<Batch> flat() {
    Type.Struct flat = flatSchema().struct();
    Results<ChangeBatch> batches = batches();
    return new Results<>(
        () -> batches.next().map(batch -> FlatChanges.batch(batch, flat)).orElse(null),
        batches::close);
  }

  @Override
  public long writeParquet(Path file) {
    return ParquetExport.write(file, flatSchema(), flat(), core.workers());
  }

  @Override
  public List<ChangeStep> steps() {
    return steps(false);
  }

  @Override
  public List<ChangeStep> keptSteps() {
    return steps(true);
  }

  /** {@code onlyKept}: whether versions that are not kept are passed over. */
  private List<ChangeStep> steps(boolean onlyKept) {
    long least = Math.min(from.version(), to.version());
    long greatest = Math.max(from.version(), to.version());
    List<VersionPage> versions =
        ofHistory(
            history -> {
              List<VersionPage> kept = new ArrayList<>();
              for (long version = least; version <= greatest; version++) {
                if (!onlyKept || history.recordOf(version).isPresent()) {
                  kept.add(history.pageOf(history.byNumber(version)));
                }
              }
              return kept;
            });
    VersionPage wide = named; // so that all steps have the same columns
    for (VersionPage version : versions) {
      wide = version.readBy(wide);
    }
    boolean isBack = from.version() > to.version();
    List<ChangeStep> steps = new ArrayList<>();
    for (int i = 1; i < versions.size(); i++) {
      VersionPage before = versions.get(i - 1);
      VersionPage after = versions.get(i);
      Changes changes =
          new VersionChanges(
              core,
              isBack ? after : before,
              isBack ? before : after,
              wide,
              condition,
              columns,
              memory);
      steps.add(new ChangeStep(after.record().told(), changes));
    }
    if (isBack) {
      Collections.reverse(steps);
    }
    return steps;
  }
}
