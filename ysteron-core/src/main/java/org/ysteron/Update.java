package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.expr.Condition;
import org.ysteron.statement.Assignment;
import org.ysteron.statement.ChangeStyle;
import org.ysteron.statement.RowUpdate;
import org.ysteron.statement.Selection;

/**
 * An update in the making: which rows, which columns get which values. All values are computed from
 * the row as it was. A row keeps its serial. For one thread.
 *
 * <pre>{@code
 * readings.update()
 *     .where(column("gauge_id").equalTo("ORR-07"))
 *     .set("quality", "suspect")
 *     .setBy("taken_at", row -> ((Instant) row.get("taken_at")).minus(1, HOURS))
 *     .run("its clock was an hour off");
 * }</pre>
 */
public final class Update {
  private final StatementRunner runner;
  private final List<Assignment> assignments = new ArrayList<>();
  private Condition condition = Condition.all();
  private Optional<Predicate<Row>> test = Optional.empty();
  private Optional<Set<Long>> serials = Optional.empty();
  private ChangeStyle style = ChangeStyle.BY_SHARE;
  private boolean onlyDifferent;

  Update(StatementRunner runner) {
    this.runner = runner;
  }

  /** Only rows for which a condition is true; with an earlier one, both. */
  public Update where(Condition also) {
    condition = condition.and(also);
    return this;
  }

  /**
   * Only rows with these serials, as {@link TableView#doubles} tells them. Unless there are other
   * conditions, too, all of them must be there.
   */
  public Update whereSerial(Set<Long> these) {
    serials = Optional.of(Set.copyOf(these));
    return this;
  }

  /** Only rows that pass a test; what it looks at cannot be told, so other writers wait for it. */
  public Update whereRow(Predicate<Row> rowTest) {
    test = Optional.of(test.map(before -> before.and(rowTest)).orElse(rowTest));
    return this;
  }

  /** Gives a column a value, the same in all rows. */
  public Update set(String column, Object value) {
    assignments.add(Assignment.constant(column, value));
    return this;
  }

  /** Gives a column the value that another one has. */
  public Update setToColumn(String column, String other) {
    runner.table().schema().resolve(other);
    return setBy(column, row -> row.get(other));
  }

  /** Gives a column a value computed from the row. */
  public Update setBy(String column, Function<Row, Object> value) {
    assignments.add(new Assignment(column, value));
    return this;
  }

  /** How the old rows go; by default by the share of their file. */
  public Update style(ChangeStyle changeStyle) {
    style = changeStyle;
    return this;
  }

  /** Leaves rows alone that have their new values already. */
  public Update onlyDifferent() {
    onlyDifferent = true;
    return this;
  }

  public ChangeResult run() {
    return run("");
  }

  /**
   * Updates the rows.
   *
   * @param note for the commit
   * @throws org.ysteron.error.InvalidInputException when a value does not fit its column, or a key
   *     would be there twice
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public ChangeResult run(String note) {
    Selection selection = new Selection(condition, test, serials);
    return runner.run(
        note, table -> new RowUpdate(table, selection, assignments, style, onlyDifferent).run());
  }
}
