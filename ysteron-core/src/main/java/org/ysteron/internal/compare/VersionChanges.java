package org.ysteron.internal.compare;

import java.nio.file.Path;
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
import org.ysteron.internal.changes.Side;
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
  private final Choice choice;

  /** What is compared, and how. */
  private record Choice(
      Condition condition,
      List<String> columns,
      OptionalLong memory,
      Optional<Comparison.Serials> serials,
      boolean byKey,
      boolean withUnchanged) {
    static final Choice ALL =
        new Choice(
            Condition.all(), List.of(), OptionalLong.empty(), Optional.empty(), false, false);

    Choice where(Condition also) {
      return new Choice(condition.and(also), columns, memory, serials, byKey, withUnchanged);
    }

    Choice columns(List<String> paths) {
      return new Choice(condition, List.copyOf(paths), memory, serials, byKey, withUnchanged);
    }

    Choice inMemory(long bytes) {
      return new Choice(condition, columns, OptionalLong.of(bytes), serials, byKey, withUnchanged);
    }

    Choice among(Comparison.Serials some) {
      return new Choice(condition, columns, memory, Optional.of(some), byKey, withUnchanged);
    }

    Choice pairedByKey() {
      return new Choice(condition, columns, memory, serials, true, withUnchanged);
    }

    Choice withUnchangedRows() {
      return new Choice(condition, columns, memory, serials, byKey, true);
    }
  }

  private VersionChanges(
      LakeCore core, VersionPage from, VersionPage to, VersionPage named, Choice choice) {
    this.core = core;
    this.from = from;
    this.to = to;
    this.named = named;
    this.choice = choice;
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
    return new VersionChanges(core, from, to, newer, Choice.ALL);
  }

  private VersionChanges with(Choice other) {
    return new VersionChanges(core, from, to, named, other);
  }

  private Comparison comparison() {
    Comparison all =
        Comparison.of(core.reading(), from, to, named, choice.condition(), choice.columns());
    Comparison some = choice.serials().map(all::of).orElse(all);
    return choice.memory().isEmpty() ? some : some.inMemory(choice.memory().getAsLong());
  }

  /** The same of rows with some serials only. */
  VersionChanges among(long first, long behind) {
    return with(choice.among(new Comparison.Serials(first, behind)));
  }

  /** The same in so many bytes of memory, or what is needed at least. */
  public VersionChanges inMemory(long bytes) {
    return with(choice.inMemory(bytes));
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
  public VersionChanges where(Condition also) {
    return with(choice.where(core.reading().fixed(also)));
  }

  @Override
  public Changes columns(String... paths) {
    return columns(List.of(paths));
  }

  @Override
  public Changes columns(List<String> paths) {
    return with(choice.columns(paths));
  }

  @Override
  public Changes withColumnsOf(long version) {
    VersionPage other = ofHistory(history -> history.pageOf(history.byNumber(version)));
    return new VersionChanges(core, from, to, other, choice);
  }

  @Override
  public Changes pairedByKey() {
    return with(choice.pairedByKey());
  }

  @Override
  public Changes withUnchanged() {
    return with(choice.withUnchangedRows());
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

  /** What was found, and how it is read. */
  private record Found(Comparison comparison, RowChanges changes, ChangedRows.Paired pairs) {
    ChangedRows rows(boolean withUnchanged) {
      return new ChangedRows(comparison, changes, pairs, withUnchanged);
    }

    /** Of these only the rows of both versions. */
    Found onlyWrittenAgain() {
      return new Found(comparison, changes.onlyWrittenAgain(), pairs);
    }
  }

  private Found find() {
    Comparison comparison = comparison();
    RowChanges changes = ChangeFinder.find(comparison);
    if (!choice.byKey()) {
      return new Found(comparison, changes, ChangedRows.Paired.NONE);
    }
    KeyPairs pairs = KeyPairs.find(comparison, changes);
    return new Found(comparison, pairs.rest(changes), pairs.all());
  }

  @Override
  public ChangeCounts count() {
    Comparison comparison = comparison();
    RowChanges changes = ChangeFinder.find(comparison);
    long paired = choice.byKey() ? KeyPairs.find(comparison, changes).count() : 0;
    long again = RowChanges.rows(changes.after()) + paired;
    return new ChangeCounts(
        RowChanges.rows(changes.inserted()) - paired,
        RowChanges.rows(changes.deleted()) - paired,
        again,
        0,
        again == 0);
  }

  @Override
  public ChangeCounts countExactly() {
    Found found = find();
    long updated = 0;
    try (ChangedRows rows = found.onlyWrittenAgain().rows(false)) {
      for (Optional<ChangedRows.Changed> each = rows.next(); each.isPresent(); each = rows.next()) {
        updated += each.get().batch().size();
      }
      return new ChangeCounts(
          RowChanges.rows(found.changes().inserted()),
          RowChanges.rows(found.changes().deleted()),
          updated,
          rows.same(),
          true);
    }
  }

  @Override
  public ChangeSummary summary() {
    Found found = find();
    ChangeTotals totals =
        new ChangeTotals(
            found.comparison(), new FileTexts(from, core.pages()), new FileTexts(to, core.pages()));
    return totals.of(found.rows(false));
  }

  @Override
  public Results<ChangeBatch> batches() {
    ChangedRows rows = find().rows(choice.withUnchanged());
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
    return ofHistory(history -> ChangeSteps.of(this, named, history, false));
  }

  @Override
  public List<ChangeStep> keptSteps() {
    return ofHistory(history -> ChangeSteps.of(this, named, history, true));
  }

  /** Where the rows are in which the versions may differ. */
  Side.Both sides() {
    return Side.of(comparison());
  }

  /** The same with columns and names of a version. */
  VersionChanges of(VersionPage version, List<String> some) {
    return new VersionChanges(core, from, to, version, choice.columns(some));
  }

  /** The same of two other versions, in the columns of a third one. */
  VersionChanges of(VersionPage earlier, VersionPage later, VersionPage of) {
    return new VersionChanges(core, earlier, later, of, choice);
  }
}
