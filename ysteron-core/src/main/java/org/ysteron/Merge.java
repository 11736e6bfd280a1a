package org.ysteron;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import java.util.function.Predicate;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.merge.MergeSpec;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.MergeAction;
import org.ysteron.option.WriteRules;
import org.ysteron.report.WriteResult;

/**
 * A merge statement. Rows of the source are matched to rows of the table by some columns, by
 * default the primary key; null matches nothing. Of the clauses of a kind, the first whose
 * condition is true decides what happens to a row; a row without such a clause stays as it is.
 * Immutable: each method returns another one.
 *
 * <pre>{@code
 * gauges.merge(MergeSource.scan(register.scan()))
 *     .matched(Column.ofSource("status").equalTo("closed"), Merge.delete())
 *     .matched(Merge.takeAll())
 *     .unmatched(Merge.takeAll())
 *     .run("the weekly register");
 * }</pre>
 */
public final class Merge {
  private final StatementRunner runner;
  private final MergeSource source;
  private final MergeSpec spec;
  private final UnaryOperator<WriteRules> rules;

  Merge(StatementRunner runner, MergeSource source, String operation) {
    this(runner, source, MergeSpec.of(operation), own -> own);
  }

  private Merge(
      StatementRunner runner, MergeSource source, MergeSpec spec, UnaryOperator<WriteRules> rules) {
    this.runner = runner;
    this.source = source;
    this.spec = spec;
    this.rules = rules;
  }

  private Merge as(MergeSpec other) {
    return new Merge(runner, source, other, rules);
  }

  /** What a clause does: deletes the table's row. */
  public static MergeAction delete() {
    return new MergeAction.Delete();
  }

  /** What a clause does: gives all columns that the source has the source's values. */
  public static MergeAction takeAll() {
    return new MergeAction.TakeAll();
  }

  /** What a clause does: gives some columns the source's values. */
  public static MergeAction take(String... columns) {
    Map<String, Expression> values = new LinkedHashMap<>();
    for (String column : columns) {
      values.put(column, Column.ofSource(Schema.path(List.of(column))));
    }
    return new MergeAction.Set(values);
  }

  /**
   * What a clause does: gives columns values computed from the table's and the source's row.
   *
   * @param values an {@link Expression} for each column, or a value that is the same for all rows;
   *     {@link Column#ofSource} names a column of the source
   */
  public static MergeAction set(Map<String, ?> values) {
    Map<String, Expression> all = new LinkedHashMap<>();
    values.forEach(
        (column, value) ->
            all.put(column, value instanceof Expression given ? given : Expression.literal(value)));
    return new MergeAction.Set(all);
  }

  /** The same by functions of the table's and the source's row. */
  public static MergeAction setBy(Map<String, BiFunction<Row, Row, @Nullable Object>> values) {
    return new MergeAction.SetBy(new LinkedHashMap<>(values));
  }

  /** The columns, of both sides, whose values match rows. */
  @CheckReturnValue
  public Merge on(String... columns) {
    return as(spec.on(List.of(columns)));
  }

  /** Rows of the table that match a row of the source. */
  @CheckReturnValue
  public Merge matched(MergeAction action) {
    return clause(MergeSpec.Kind.MATCHED, Optional.empty(), action);
  }

  /**
   * Rows of the table that match a row of the source, if a condition over both is true; {@link
   * Column#ofSource} names a column of the source.
   */
  @CheckReturnValue
  public Merge matched(Condition condition, MergeAction action) {
    return clause(MergeSpec.Kind.MATCHED, condition, action);
  }

  /** Rows of the table that match a row of the source, if a function of both says so. */
  @CheckReturnValue
  public Merge matched(BiPredicate<Row, Row> condition, MergeAction action) {
    return clause(MergeSpec.Kind.MATCHED, test(condition), action);
  }

  /** Rows of the source that match none of the table. */
  @CheckReturnValue
  public Merge unmatched(MergeAction action) {
    return clause(MergeSpec.Kind.NOT_MATCHED, Optional.empty(), action);
  }

  /** Rows of the source that match none of the table, if a condition is true. */
  @CheckReturnValue
  public Merge unmatched(Condition condition, MergeAction action) {
    return clause(MergeSpec.Kind.NOT_MATCHED, condition, action);
  }

  /** Rows of the source that match none of the table, if a function says so. */
  @CheckReturnValue
  public Merge unmatched(Predicate<Row> condition, MergeAction action) {
    return clause(MergeSpec.Kind.NOT_MATCHED, test((table, row) -> condition.test(row)), action);
  }

  /** Rows of the table that match none of the source. */
  @CheckReturnValue
  public Merge notInSource(MergeAction action) {
    return clause(MergeSpec.Kind.NOT_IN_SOURCE, Optional.empty(), action);
  }

  /** Rows of the table that match none of the source, if a condition is true. */
  @CheckReturnValue
  public Merge notInSource(Condition condition, MergeAction action) {
    return clause(MergeSpec.Kind.NOT_IN_SOURCE, condition, action);
  }

  /** Rows of the table that match none of the source, if a function says so. */
  @CheckReturnValue
  public Merge notInSource(Predicate<Row> condition, MergeAction action) {
    return clause(MergeSpec.Kind.NOT_IN_SOURCE, test((row, given) -> condition.test(row)), action);
  }

  private static Optional<MergeSpec.When> test(BiPredicate<Row, Row> test) {
    return Optional.of(new MergeSpec.When.Test(test));
  }

  private Merge clause(MergeSpec.Kind kind, Condition condition, MergeAction action) {
    return clause(kind, Optional.of(new MergeSpec.When.Condition(condition)), action);
  }

  private Merge clause(
      MergeSpec.Kind kind, Optional<MergeSpec.When> condition, MergeAction action) {
    return as(spec.with(new MergeSpec.Clause(kind, condition, action)));
  }

  /** Of source rows with the same key, the last one counts; else they are refused. */
  @CheckReturnValue
  public Merge lastWins() {
    return as(spec.with(new MergeSpec.Duplicates.Last()));
  }

  /** Of source rows with the same key, the one with the greatest value of a column counts. */
  @CheckReturnValue
  public Merge maxWins(String column) {
    return as(spec.with(new MergeSpec.Duplicates.Greatest(column)));
  }

  /**
   * How columns of the source meet the table's, where a clause {@linkplain #takeAll() takes all};
   * by default by the table's own rules.
   *
   * @param change gives the rules from the table's own
   */
  @CheckReturnValue
  public Merge rules(UnaryOperator<WriteRules> change) {
    return new Merge(runner, source, spec, change);
  }

  /** How replaced and deleted rows go; by default by the share of their file. */
  @CheckReturnValue
  public Merge style(ChangeStyle changeStyle) {
    return as(spec.with(changeStyle));
  }

  /** Leaves rows alone that have their new values already. */
  @CheckReturnValue
  public Merge onlyDifferent() {
    return as(spec.onlyDifferently());
  }

  /** Merges. */
  public WriteResult run() {
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
  public WriteResult run(String note) {
    return new MergeRun(runner, source, spec, rules).run(note);
  }
}
