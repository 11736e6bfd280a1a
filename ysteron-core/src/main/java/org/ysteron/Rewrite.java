package org.ysteron;

import java.util.function.Predicate;
import org.ysteron.expr.Condition;
import org.ysteron.internal.statement.RowRewrite;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.report.WriteResult;

/**
 * Rewrites data files in the newest layout: those that may hold some rows, those of older layouts,
 * or all. Earlier versions keep the old files. Immutable.
 */
public final class Rewrite {
  private final StatementRunner runner;
  private final Condition condition;
  private final boolean olderOnly;
  private final Predicate<FileEntry> among;

  Rewrite(StatementRunner runner) {
    this(runner, Condition.all(), false, file -> true);
  }

  private Rewrite(
      StatementRunner runner, Condition condition, boolean olderOnly, Predicate<FileEntry> among) {
    this.runner = runner;
    this.among = among;
    this.condition = condition;
    this.olderOnly = olderOnly;
  }

  /** Only files that may hold rows for which a condition is true; they are moved as a whole. */
  @CheckReturnValue
  public Rewrite where(Condition also) {
    return new Rewrite(runner, condition.and(also), olderOnly, among);
  }

  /** Only files of layouts before the newest. */
  @CheckReturnValue
  public Rewrite ofOlderLayouts() {
    return new Rewrite(runner, condition, true, among);
  }

  /** Only files that pass a test: any may be packed with any others. */
  Rewrite among(Predicate<FileEntry> files) {
    return new Rewrite(runner, condition, olderOnly, files);
  }

  /** Moves the rows. */
  public WriteResult run() {
    return run("");
  }

  /** Moves the rows, with a note for the commit. */
  public WriteResult run(String note) {
    Condition fixed = condition.at(runner.core().now());
    return runner.run(
        note,
        table -> {
          long layout = table.draft().layoutVersion();
          Predicate<FileEntry> older = file -> file.numbers().layout() != layout;
          return RowRewrite.run(table, fixed, olderOnly ? among.and(older) : among);
        });
  }
}
