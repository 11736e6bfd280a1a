package org.ysteron;

import org.ysteron.change.RowRewrite;
import org.ysteron.expr.Condition;

/**
 * Moves rows to new files by the newest layout: one partition, files of older layouts, or all.
 * Versions before keep the old files. Immutable.
 */
public final class Rewrite {
  private final StatementRunner runner;
  private final Condition condition;
  private final boolean olderOnly;

  Rewrite(StatementRunner runner) {
    this(runner, Condition.all(), false);
  }

  private Rewrite(StatementRunner runner, Condition condition, boolean olderOnly) {
    this.runner = runner;
    this.condition = condition;
    this.olderOnly = olderOnly;
  }

  /** Only files that may hold rows for which a condition is true; they are moved as a whole. */
  public Rewrite where(Condition also) {
    return new Rewrite(runner, condition.and(also), olderOnly);
  }

  /** Only files of layouts before the newest. */
  public Rewrite ofOlderLayouts() {
    return new Rewrite(runner, condition, true);
  }

  public ChangeResult run() {
    return run("");
  }

  /** Moves the rows, with a note for the commit. */
  public ChangeResult run(String note) {
    return runner.run(note, table -> RowRewrite.run(table, condition, olderOnly));
  }
}
