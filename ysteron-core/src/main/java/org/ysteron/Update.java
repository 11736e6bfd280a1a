package org.ysteron;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.statement.Assignment;
import org.ysteron.internal.statement.RowUpdate;
import org.ysteron.internal.statement.Selection;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.ChangeStyle;
import org.ysteron.report.WriteResult;

/**
 * An update statement. All new values are computed from the row as it was before. A row keeps its
 * serial. Immutable: each method returns another one.
 *
 * <pre>{@code
 * readings.update()
 *     .where(column("gauge_id").equalTo("ORR-07"))
 *     .set("quality", "suspect")
 *     .set("taken_at", column("taken_at").minus(Duration.ofHours(1)))
 *     .run("its clock was an hour off");
 * }</pre>
 */
public final class Update {
  private final StatementRunner runner;
  private final List<Assignment> assignments;
  private final Selection selection;
  private final ChangeStyle style;
  private final boolean onlyDifferent;

  Update(StatementRunner runner) {
    this(runner, List.of(), Selection.UNTOLD, ChangeStyle.BY_SHARE, false);
  }

  private Update(
      StatementRunner runner,
      List<Assignment> assignments,
      Selection selection,
      ChangeStyle style,
      boolean onlyDifferent) {
    this.runner = runner;
    this.assignments = assignments;
    this.selection = selection;
    this.style = style;
    this.onlyDifferent = onlyDifferent;
  }

  private Update of(Selection rows) {
    return new Update(runner, assignments, rows, style, onlyDifferent);
  }

  private Update with(Assignment assignment) {
    List<Assignment> more = new ArrayList<>(assignments);
    more.add(assignment);
    return new Update(runner, List.copyOf(more), selection, style, onlyDifferent);
  }

  /** Every row. */
  @CheckReturnValue
  public Update all() {
    return of(selection.all());
  }

  /** Only rows for which a condition is true; with an earlier one, both. */
  @CheckReturnValue
  public Update where(Condition also) {
    return of(selection.where(also));
  }

  /**
   * Only rows with these serials, as {@link TableView#duplicates} lists them. Unless there are
   * other conditions, too, all of them must be there.
   */
  @CheckReturnValue
  public Update whereSerial(Set<Long> these) {
    return of(selection.whereSerial(these));
  }

  /** Only rows that pass a test; what it looks at cannot be told, so other writers wait for it. */
  @CheckReturnValue
  public Update whereRow(Predicate<Row> rowTest) {
    return of(selection.whereRow(rowTest));
  }

  /**
   * Gives a column a value.
   *
   * @param value an {@link Expression} of the row as it was, or the same value for all rows
   */
  @CheckReturnValue
  public Update set(String column, @Nullable Object value) {
    return with(
        value instanceof Expression expression
            ? Assignment.of(column, expression)
            : Assignment.constant(column, value));
  }

  /** Gives a column the value that another one has. */
  @CheckReturnValue
  public Update setToColumn(String column, String other) {
    return set(column, Expression.column(other));
  }

  /**
   * Gives a column a value that a function computes from the row, all columns of which are read.
   */
  @CheckReturnValue
  public Update setBy(String column, Function<Row, @Nullable Object> value) {
    return with(Assignment.by(column, value));
  }

  /** How the old rows go; by default by the share of their file. */
  @CheckReturnValue
  public Update style(ChangeStyle changeStyle) {
    return new Update(runner, assignments, selection, changeStyle, onlyDifferent);
  }

  /** Leaves rows alone that have their new values already. */
  @CheckReturnValue
  public Update onlyDifferent() {
    return new Update(runner, assignments, selection, style, true);
  }

  /** Updates the rows. */
  public WriteResult run() {
    return run("");
  }

  /**
   * Updates the rows.
   *
   * @param note for the commit
   * @throws org.ysteron.error.InvalidInputException when it was not said which rows, a value does
   *     not fit its column, or a key would be there twice
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public WriteResult run(String note) {
    Instant now = runner.core().now();
    Selection rows = selection.told("update", runner.table().name()).at(now);
    List<Assignment> values = assignments.stream().map(one -> one.at(now)).toList();
    return runner.run(
        note, table -> new RowUpdate(table, rows, values, style, onlyDifferent).run());
  }
}
