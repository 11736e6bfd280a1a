package org.ysteron.internal.transact;

import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.CancelledException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.Isolation;
import org.ysteron.option.WriteRules;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.Committed;
import org.ysteron.report.TableInfo;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.report.WriteResult;

/**
 * A change set from its start to its end. What is refused leaves nothing of itself; any other
 * failure ends the whole. Handed from thread to thread, but for one at a time; another one that
 * comes meanwhile is refused.
 */
public final class OpenTransaction {
  private final LakeCore core;
  private final ChangeSet changes;
  private final AtomicReference<Thread> busy = new AtomicReference<>();
  private final Map<TableChange, NamedRows> rows = new HashMap<>();
  private ChangeReport report = ChangeReport.NOTHING;
  private State state = State.OPEN;
  private Throwable failure;

  private enum State {
    OPEN,
    COMMITTED,
    UNKNOWN,
    FAILED,
    CLOSED
  }

  /** Starts on the newest state. */
  public OpenTransaction(LakeCore core, Isolation isolation) {
    this.core = core;
    this.changes = new ChangeSet(core, core.refresh(), isolation);
  }

  public LakeCore core() {
    return core;
  }

  public ChangeSet changes() {
    return changes;
  }

  /** Does something that needs an open transaction, and no other thread in it. */
  public <T> T inside(Supplier<T> work) {
    Thread me = Thread.currentThread();
    Thread other = busy.get();
    boolean mine = other == me;
    if (!mine && !busy.compareAndSet(null, me)) {
      throw new InvalidInputException(
          "The transaction is in use by thread %s. Use it from one thread at a time."
              .formatted(other == null ? "another one" : other.getName()));
    }
    try {
      if (state != State.OPEN) {
        throw ended();
      }
      return core.startedAt(changes.start(), work);
    } catch (InvalidInputException | NotFoundException | CancelledException e) {
      throw e; // refused: nothing of it was taken
    } catch (RuntimeException | Error e) {
      if (state == State.OPEN) {
        fail(e);
      }
      throw e;
    } finally {
      if (!mine) {
        busy.set(null);
      }
    }
  }

  private EndedException ended() {
    return new EndedException(
        EndedException.Kind.TRANSACTION,
        null,
        switch (state) {
          case COMMITTED -> "The transaction was committed. Begin another one.";
          case UNKNOWN ->
              "The outcome of the transaction's commit is unknown, because the store did not reply. Run the attempt of the exception to find out.";
          case FAILED ->
              "The transaction ended because a part of it failed: %s Nothing was changed; begin another one."
                  .formatted(failure.getMessage());
          default -> "The transaction was closed without a commit. Begin another one.";
        },
        failure);
  }

  /** The rows that are being added to a table, by the table's own rules. */
  public NamedRows rows(TableChange table) {
    return rows.computeIfAbsent(table, t -> new NamedRows(t, WriteRules.of(t.draft().settings())));
  }

  /** Makes what was written to any table readable. */
  public void settle() {
    try {
      for (NamedRows added : rows.values()) {
        added.finish();
        report = report.and(added.report());
      }
      rows.clear();
    } catch (InvalidInputException | CancelledException e) {
      fail(e); // rows that were taken cannot be there, so that the rest is not what was wanted
      throw e;
    }
    changes.awaitDurable();
  }

  /** Tells what the tables are here that this has created, changed or dropped. */
  public void tell(Map<UUID, TableInfo> tables) {
    inside(
        () -> {
          settle();
          changes.tell(tables);
          return null;
        });
  }

  /** Does work of which nothing is left when it fails, whatever tables it is about. */
  public <T> T atomically(Supplier<T> work) {
    return inside(
        () -> {
          settle();
          Runnable back = changes.mark();
          ChangeReport before = report;
          try {
            T result = work.get();
            settle();
            return result;
          } catch (RuntimeException e) {
            if (state == State.OPEN) {
              rows.values().forEach(NamedRows::giveUp);
              rows.clear();
              back.run();
              report = before;
            }
            throw e;
          }
        });
  }

  /** Runs a statement, which sees all that was written before. */
  public WriteResult statement(TableChange table, Function<TableChange, ChangeReport> statement) {
    return inside(
        () -> {
          settle();
          ChangeReport did = changes.statement(table, statement);
          report = report.and(did);
          return new WriteResult(did, Optional.empty());
        });
  }

  /** Changes tables at once: when it fails, nothing was done. */
  public WriteResult changing(Function<ChangeSet, ChangeReport> work) {
    return atomically(
        () -> {
          ChangeReport did = work.apply(changes);
          report = report.and(did);
          return new WriteResult(did, Optional.empty());
        });
  }

  /** Adds rows to a table in a statement: when it fails, none of them is added. */
  public WriteResult adding(TableChange table, Runnable work) {
    return inside(
        () -> {
          settle();
          ChangeReport did =
              changes.statement(
                  table,
                  change -> {
                    try {
                      work.run();
                      Optional<NamedRows> added = Optional.ofNullable(rows.get(change));
                      added.ifPresent(NamedRows::finish);
                      rows.remove(change);
                      return added.map(NamedRows::report).orElse(ChangeReport.NOTHING);
                    } catch (RuntimeException e) {
                      Optional.ofNullable(rows.remove(change)).ifPresent(NamedRows::giveUp);
                      throw e;
                    }
                  });
          report = report.and(did);
          return new WriteResult(did, Optional.empty());
        });
  }

  /** Drops a table; rows that were being added to it are forgotten. */
  public void drop(TableChange table) {
    inside(
        () -> {
          Optional.ofNullable(rows.remove(table)).ifPresent(NamedRows::giveUp);
          changes.drop(table);
          return null;
        });
  }

  private void fail(Throwable cause) {
    failure = cause;
    giveUp(State.FAILED);
  }

  private void giveUp(State ended) {
    state = ended;
    rows.values().forEach(NamedRows::giveUp);
    rows.clear();
    changes.discard();
  }

  /** Commits everything; the result has no commit when nothing was changed. */
  public WriteResult commit(CommitNote note) {
    return inside(
        () -> {
          settle();
          // Whatever ends this other than a plain refusal leaves the files, which may be committed.
          state = State.UNKNOWN;
          try {
            Optional<Committed> committed =
                core.startedAt(changes.start(), () -> changes.commit(note));
            state = State.COMMITTED;
            return new WriteResult(report, committed);
          } catch (UnknownOutcomeException e) {
            throw e;
          } catch (AppliedBefore e) {
            state = State.COMMITTED;
            changes.discard();
            return WriteResult.NOTHING;
          } catch (RuntimeException e) {
            state = State.CLOSED;
            changes.discard();
            throw e;
          }
        });
  }

  /** The conflict that a commit would meet now; it stays open. */
  public Optional<ConflictException> conflict(CommitNote note) {
    return inside(
        () -> {
          settle();
          try {
            core.dryRun(changes, note);
            return Optional.empty();
          } catch (ConflictException e) {
            return Optional.of(e);
          } catch (AppliedBefore e) {
            return Optional.empty();
          }
        });
  }

  /** Leaves nothing, unless it was committed or may be. */
  public void close() {
    if (state == State.OPEN) {
      giveUp(State.CLOSED);
    }
  }
}
