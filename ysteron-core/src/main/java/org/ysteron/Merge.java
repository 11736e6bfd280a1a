package org.ysteron;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.UnaryOperator;
import org.ysteron.data.Row;
import org.ysteron.drift.Grown;
import org.ysteron.drift.SourceRows;
import org.ysteron.drift.WriteRules;
import org.ysteron.file.Workers;
import org.ysteron.merge.MergeSpec;
import org.ysteron.merge.RowMerge;
import org.ysteron.merge.RowSpool;
import org.ysteron.statement.ChangeReport;
import org.ysteron.statement.ChangeStyle;
import org.ysteron.table.TableForm;
import org.ysteron.transact.TableChange;

/**
 * A merge in the making. Rows of the source are matched to rows of the table on some columns, by
 * default the primary key; null matches nothing. Of the clauses of a kind, the first whose
 * condition holds says what becomes of a row; a row for which none does stays as it is. For one
 * thread.
 *
 * <pre>{@code
 * gauges.merge(MergeSource.scan(register.scan()))
 *     .matched((gauge, row) -> "closed".equals(row.get("status")), Merge.delete())
 *     .matched(Merge.takeAll())
 *     .unmatched(Merge.takeAll())
 *     .run("the weekly register");
 * }</pre>
 */
public final class Merge {
  private final StatementRunner runner;
  private final MergeSource source;
  private final String operation;
  private final List<MergeSpec.Clause> clauses = new ArrayList<>();
  private List<String> on = List.of();
  private MergeSpec.Duplicates duplicates = new MergeSpec.Duplicates.Refuse();
  private ChangeStyle style = ChangeStyle.BY_SHARE;
  private boolean onlyDifferent;
  private UnaryOperator<WriteRules> rules = own -> own;
  private Grown grown = Grown.NOTHING;

  Merge(StatementRunner runner, MergeSource source, String operation) {
    this.runner = runner;
    this.source = source;
    this.operation = operation;
  }

  /** What a clause does: deletes the table's row. */
  public static MergeSpec.Action delete() {
    return new MergeSpec.Delete();
  }

  /** What a clause does: gives all columns that the source has the source's values. */
  public static MergeSpec.Action takeAll() {
    return new MergeSpec.TakeAll();
  }

  /** What a clause does: gives some columns the source's values. */
  public static MergeSpec.Action take(String... columns) {
    Map<String, BiFunction<Row, Row, Object>> values = new LinkedHashMap<>();
    for (String column : columns) {
      values.put(column, (table, given) -> given.get(column));
    }
    return new MergeSpec.Set(values);
  }

  /** What a clause does: gives columns values computed from the table's and the source's row. */
  public static MergeSpec.Action set(Map<String, BiFunction<Row, Row, Object>> values) {
    return new MergeSpec.Set(new LinkedHashMap<>(values));
  }

  /** The columns, of both sides, whose values match rows. */
  public Merge on(String... columns) {
    on = List.of(columns);
    return this;
  }

  /** Rows of the table that match a row of the source. */
  public Merge matched(MergeSpec.Action action) {
    return clause(MergeSpec.Kind.MATCHED, Optional.empty(), action);
  }

  /** Rows of the table that match a row of the source, if a condition over both holds. */
  public Merge matched(BiPredicate<Row, Row> condition, MergeSpec.Action action) {
    return clause(MergeSpec.Kind.MATCHED, Optional.of(condition), action);
  }

  /** Rows of the source that match none of the table. */
  public Merge unmatched(MergeSpec.Action action) {
    return clause(MergeSpec.Kind.NOT_MATCHED, Optional.empty(), action);
  }

  /** Rows of the source that match none of the table, if a condition holds. */
  public Merge unmatched(Predicate<Row> condition, MergeSpec.Action action) {
    return clause(
        MergeSpec.Kind.NOT_MATCHED, Optional.of((table, row) -> condition.test(row)), action);
  }

  /** Rows of the table that match none of the source. */
  public Merge notInSource(MergeSpec.Action action) {
    return clause(MergeSpec.Kind.NOT_IN_SOURCE, Optional.empty(), action);
  }

  /** Rows of the table that match none of the source, if a condition holds. */
  public Merge notInSource(Predicate<Row> condition, MergeSpec.Action action) {
    return clause(
        MergeSpec.Kind.NOT_IN_SOURCE, Optional.of((row, given) -> condition.test(row)), action);
  }

  private Merge clause(
      MergeSpec.Kind kind, Optional<BiPredicate<Row, Row>> condition, MergeSpec.Action action) {
    clauses.add(new MergeSpec.Clause(kind, condition, action));
    return this;
  }

  /** Of source rows with the same key, the last one counts; else they are refused. */
  public Merge lastWins() {
    duplicates = new MergeSpec.Duplicates.Last();
    return this;
  }

  /** Of source rows with the same key, the one with the greatest value of a column counts. */
  public Merge greatestWins(String column) {
    duplicates = new MergeSpec.Duplicates.Greatest(column);
    return this;
  }

  /**
   * How columns of the source meet the table's, where a clause {@linkplain #takeAll() takes all};
   * by default by the table's own rules.
   *
   * @param change gives the rules from the table's own
   */
  public Merge rules(UnaryOperator<WriteRules> change) {
    rules = change;
    return this;
  }

  /** How replaced and deleted rows go; by default by the share of their file. */
  public Merge style(ChangeStyle changeStyle) {
    style = changeStyle;
    return this;
  }

  /** Leaves rows alone that have their new values already. */
  public Merge onlyDifferent() {
    onlyDifferent = true;
    return this;
  }

  public ChangeResult run() {
    return run("");
  }

  /**
   * Merges. The source is read first.
   *
   * @param note for the commit
   * @throws org.ysteron.error.InvalidInputException when two source rows have the same key and
   *     neither wins, or a value does not fit
   * @throws org.ysteron.error.NotFoundException when a column does not exist
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public ChangeResult run(String note) {
    WriteRules ruled = rules.apply(WriteRules.of(runner.table().settings()));
    boolean takesAll =
        clauses.stream().anyMatch(clause -> clause.action() instanceof MergeSpec.TakeAll);
    boolean drifts = source.isNamed() || (takesAll && !ruled.isPlain());
    Optional<Function<TableChange, MergeSource>> tracked = source.tracked(runner.core());
    if (tracked.isPresent()) {
      return runner.run(
          note,
          table -> {
            MergeSource now = tracked.get().apply(table);
            if (drifts) {
              try (SourceRows rows = now.rows(table.draft(), ruled)) {
                return merge(table, rows);
              }
            }
            try (RowSpool spool = now.spool(table.draft().schema(), workers())) {
              return merge(table, spool);
            }
          });
    }
    if (drifts) {
      try (SourceRows rows = source.rows(runner.table(), ruled)) {
        return runner.run(note, table -> merge(table, rows));
      }
    }
    try (RowSpool spool = source.spool(runner.table().schema(), workers())) {
      return runner.run(note, table -> merge(table, spool));
    }
  }

  private Workers workers() {
    return runner.core().workers();
  }

  /** How the table has grown by the source, after it ran. */
  public Grown grown() {
    return grown;
  }

  private ChangeReport merge(TableChange table, SourceRows rows) {
    table.grow(rows.alterations(table.draft().form()));
    grown = rows.grown();
    TableForm form = table.draft().form();
    try (RowSpool spool = new RowSpool(rows.columns(form), workers())) {
      rows.forEach(form, (number, values) -> spool.add(values));
      return merge(table, spool.end());
    }
  }

  private ChangeReport merge(TableChange table, RowSpool spool) {
    MergeSpec spec =
        new MergeSpec(
            operation,
            RowMerge.checkOn(on, table.draft().schema(), spool.columns()),
            clauses,
            duplicates,
            style,
            onlyDifferent);
    return new RowMerge(table, spec, spool).run();
  }
}
