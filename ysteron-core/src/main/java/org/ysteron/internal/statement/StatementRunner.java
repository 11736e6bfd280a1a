package org.ysteron.internal.statement;

import java.util.Optional;
import java.util.function.Function;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.Isolation;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;

/** Runs one statement on one table: in a commit of its own, or in a transaction. */
public interface StatementRunner {

  /** The table before the statement. */
  VersionPage table();

  LakeCore core();

  /** Runs a statement. */
  WriteResult run(String note, Function<TableChange, ChangeReport> statement);

  /**
   * A commit of its own, run again on the newest state when another commit stands in its way: what
   * a single statement does depends on nothing but the state it runs on.
   */
  record Alone(LakeCore core, CommitNote commitNote, VersionPage table) implements StatementRunner {
    @Override
    public WriteResult run(String note, Function<TableChange, ChangeReport> statement) {
      CommitNote noted = note.isEmpty() ? commitNote : commitNote.withNote(note);
      return Retries.changing(
          core,
          Isolation.SERIALIZABLE,
          set -> {
            ChangeReport report = statement.apply(set.table(table.id(), table.name()));
            return new WriteResult(report, set.commit(noted));
          });
    }
  }

  /** What would be done to the newest state: nothing is committed, and what was written goes. */
  record DryRun(LakeCore core, CommitNote commitNote, VersionPage table)
      implements StatementRunner {
    @Override
    public WriteResult run(String note, Function<TableChange, ChangeReport> statement) {
      return Retries.changing(
          core,
          Isolation.SERIALIZABLE,
          set -> {
            ChangeReport report = statement.apply(set.table(table.id(), table.name()));
            core.dryRun(set, commitNote);
            set.discard();
            return new WriteResult(report, Optional.empty());
          });
    }
  }

  /** A part of a transaction; one that fails leaves nothing. */
  record Inside(OpenTransaction transaction, TableChange change) implements StatementRunner {
    @Override
    public VersionPage table() {
      return change.draft();
    }

    @Override
    public LakeCore core() {
      return transaction.core();
    }

    @Override
    public WriteResult run(String note, Function<TableChange, ChangeReport> statement) {
      return transaction.statement(change, statement);
    }
  }
}
