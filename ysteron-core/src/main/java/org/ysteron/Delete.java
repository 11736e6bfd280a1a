package org.ysteron;

import java.util.Set;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.expr.Condition;
import org.ysteron.internal.statement.RowDelete;
import org.ysteron.internal.statement.Selection;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.ChangeStyle;
import org.ysteron.report.WriteResult;

/**
 * A delete statement. Files all of whose rows match, by their ranges, are removed without reading
 * them. Immutable: each method returns another one.
 *
 * <pre>{@code
 * readings.delete().where(column("taken_at").lessThan(start)).run("older than five years");
 * }</pre>
 */
public final class Delete {
  private final StatementRunner runner;
  private final Selection selection;
  private final ChangeStyle style;

  Delete(StatementRunner runner) {
    this(runner, Selection.UNTOLD, ChangeStyle.BY_SHARE);
  }

  private Delete(StatementRunner runner, Selection selection, ChangeStyle style) {
    this.runner = runner;
    this.selection = selection;
    this.style = style;
  }

  private Delete of(Selection rows) {
    return new Delete(runner, rows, style);
  }

  /** Every row. */
  @CheckReturnValue
  public Delete all() {
    return of(selection.all());
  }

  /** Only rows for which a condition is true; with an earlier one, both. */
  @CheckReturnValue
  public Delete where(Condition also) {
    return of(selection.where(also));
  }

  /**
   * Only rows with these serials, as {@link TableView#duplicates} lists them. Unless there are
   * other conditions, too, all of them must be there.
   */
  @CheckReturnValue
  public Delete whereSerial(Set<Long> these) {
    return of(selection.whereSerial(these));
  }

  /** Only rows that pass a test; what it looks at cannot be told, so other writers wait for it. */
  @CheckReturnValue
  public Delete whereRow(Predicate<Row> rowTest) {
    return of(selection.whereRow(rowTest));
  }

  /** How the rows go; by default by the share of their file. */
  @CheckReturnValue
  public Delete style(ChangeStyle changeStyle) {
    return new Delete(runner, selection, changeStyle);
  }

  /** Deletes the rows. */
  public WriteResult run() {
    return run("");
  }

  /**
   * Deletes the rows.
   *
   * @param note for the commit
   * @throws org.ysteron.error.InvalidInputException when it was not said which rows
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public WriteResult run(String note) {
    Selection rows = selection.told("delete", runner.table().name()).at(runner.core().now());
    return runner.run(note, table -> RowDelete.run(table, rows, style));
  }
}
