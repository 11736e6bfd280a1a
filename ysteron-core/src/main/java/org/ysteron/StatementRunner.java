package org.ysteron;

import java.util.function.Function;
import org.ysteron.commit.CommitNote;
import org.ysteron.commit.LakeCore;
import org.ysteron.commit.UnknownOutcomeException;
import org.ysteron.error.ConflictException;
import org.ysteron.statement.ChangeReport;
import org.ysteron.table.VersionPage;
import org.ysteron.transact.ChangeSet;
import org.ysteron.transact.Isolation;
import org.ysteron.transact.TableChange;

/** Runs one statement on one table: in a commit of its own, or in a transaction. */
interface StatementRunner {

  /** The table before the statement. */
  VersionPage table();

  LakeCore core();

  /** Runs a statement. */
  ChangeResult run(String note, Function<TableChange, ChangeReport> statement);

  /**
   * A commit of its own, run again on the newest state when another commit stands in its way: what
   * a single statement does depends on nothing but the state it runs on.
   */
  record Alone(LakeCore core, CommitNote commitNote, VersionPage table) implements StatementRunner {
    private static final int MOST_TRIES = 60;

    @Override
    public ChangeResult run(String note, Function<TableChange, ChangeReport> statement) {
      CommitNote noted = note.isEmpty() ? commitNote : commitNote.withNote(note);
      for (int tries = 1; ; tries++) {
        ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SERIALIZABLE);
        try {
          ChangeReport report = statement.apply(set.table(table.id(), table.name()));
          ChangeResult result = new ChangeResult(report, set.commit(noted));
          return result;
        } catch (UnknownOutcomeException e) {
          throw e;
        } catch (ConflictException e) {
          set.discard();
          if (!e.isWorthAnotherTry() || tries == MOST_TRIES) {
            throw e;
          }
          core.pause(tries);
        } catch (RuntimeException e) {
          set.discard();
          throw e;
        }
      }
    }
  }
}
