package org.ysteron;

import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.expr.Condition;
import org.ysteron.statement.ChangeStyle;
import org.ysteron.statement.RowDelete;
import org.ysteron.statement.Selection;

/**
 * A delete in the making. Files all of whose rows go, by their ranges, are dropped unread. For one
 * thread.
 *
 * <pre>{@code
 * readings.delete().where(column("taken_at").lessThan(start)).run("older than five years");
 * }</pre>
 */
public final class Delete {
  private final StatementRunner runner;
  private Condition condition = Condition.all();
  private Optional<Predicate<Row>> test = Optional.empty();
  private Optional<Set<Long>> serials = Optional.empty();
  private ChangeStyle style = ChangeStyle.BY_SHARE;

  Delete(StatementRunner runner) {
    this.runner = runner;
  }

  /** Only rows for which a condition is true; with an earlier one, both. */
  public Delete where(Condition also) {
    condition = condition.and(also);
    return this;
  }

  /**
   * Only rows with these serials, as {@link TableView#doubles} tells them. Unless there are other
   * conditions, too, all of them must be there.
   */
  public Delete whereSerial(Set<Long> these) {
    serials = Optional.of(Set.copyOf(these));
    return this;
  }

  /** Only rows that pass a test; what it looks at cannot be told, so other writers wait for it. */
  public Delete whereRow(Predicate<Row> rowTest) {
    test = Optional.of(test.map(before -> before.and(rowTest)).orElse(rowTest));
    return this;
  }

  /** How the rows go; by default by the share of their file. */
  public Delete style(ChangeStyle changeStyle) {
    style = changeStyle;
    return this;
  }

  public ChangeResult run() {
    return run("");
  }

  /**
   * Deletes the rows.
   *
   * @param note for the commit
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public ChangeResult run(String note) {
    Selection selection = new Selection(condition, test, serials);
    return runner.run(note, table -> RowDelete.run(table, selection, style));
  }
}
