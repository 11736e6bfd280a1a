package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.internal.statement.Leftovers;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.option.Lift;
import org.ysteron.report.LiftResult;
import org.ysteron.report.WriteResult;

/**
 * The statements of a table. In a lake each statement is a commit of its own, and runs again after
 * a conflict. In a transaction the statements are committed together. A statement is immutable and
 * does nothing before it is run.
 */
public abstract sealed class EditableTable implements ReadableTable
    permits Table, TransactionTable, DryRunTable {
  EditableTable() {}

  /** Runs statements on this table. */
  abstract StatementRunner statements();

  /** Starts a delete. */
  public Delete delete() {
    return new Delete(statements());
  }

  /** Starts an update. */
  public Update update() {
    return new Update(statements());
  }

  /** Starts a merge. */
  public Merge merge(MergeSource source) {
    return new Merge(statements(), source, "merge");
  }

  /** Starts a merge on the primary key that updates the rows there are and inserts the others. */
  public Merge upsert(MergeSource source) {
    return new Merge(statements(), source, "upsert")
        .matched(Merge.takeAll())
        .unmatched(Merge.takeAll());
  }

  /** Starts altering the columns, the constraints, the layout, the settings. */
  public Alter alter() {
    return new Alter(statements());
  }

  /** Starts moving rows to files of the newest layout. */
  public Rewrite rewrite() {
    return new Rewrite(statements());
  }

  /** Starts making an earlier version current again. */
  public Rewind rewind() {
    return new Rewind(statements());
  }

  /**
   * Lifts keys of the leftovers into columns: adds those that are not there, fills the rows where
   * values fit, and takes what fits from the leftovers.
   *
   * @return what was filled, and what did not fit
   */
  public LiftResult lift(List<Lift> keys) {
    List<Leftovers.Outcome> outcomes = new ArrayList<>();
    WriteResult write =
        statements()
            .run(
                "",
                change -> {
                  outcomes.add(Leftovers.lift(change, keys));
                  return outcomes.get(outcomes.size() - 1).report();
                });
    return new LiftResult(write, outcomes.get(outcomes.size() - 1).misfits());
  }
}
