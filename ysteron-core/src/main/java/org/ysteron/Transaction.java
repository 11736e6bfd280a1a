package org.ysteron;

import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Supplier;
import org.ysteron.commit.CommitAttempt;
import org.ysteron.commit.CommitNote;
import org.ysteron.commit.Committed;
import org.ysteron.commit.LakeCore;
import org.ysteron.commit.LakeState;
import org.ysteron.commit.UnknownOutcomeException;
import org.ysteron.data.Schema;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.table.LayoutPlan;
import org.ysteron.table.TableForm;
import org.ysteron.table.TableSettings;
import org.ysteron.transact.ChangeSet;
import org.ysteron.transact.Isolation;
import org.ysteron.transact.TableChange;

/**
 * Any number of changes to any number of tables, in one commit: all of it or nothing. Reads see the
 * lake as it was when the transaction started, with the transaction's own changes. Closing it
 * without {@link #commit()} leaves nothing. It may be handed from thread to thread, but is for one
 * at a time.
 *
 * <p>A row or a statement that is refused leaves nothing of itself, and the transaction goes on
 * without it. Any other failure of a part ends the whole: {@link #commit()} then throws an {@link
 * EndedException}, and nothing is changed.
 *
 * <pre>{@code
 * try (Transaction work = lake.begin()) {
 *   work.table("tide.readings").delete().where(...).run();
 *   work.table("tide.bulletins").add(...);
 *   work.commit("the noon bulletin");
 * }
 * }</pre>
 */
public final class Transaction implements AutoCloseable {
  private final LakeCore core;
  private final ChangeSet changes;
  private final Set<Thread> beginners;
  private final Thread beginner;
  private final AtomicReference<Thread> busy = new AtomicReference<>();
  private final Map<TableChange, TransactionTable> tables = new HashMap<>();
  private CommitNote note;
  private State state = State.OPEN;
  private Throwable failure;

  private enum State {
    OPEN,
    COMMITTED,
    UNKNOWN,
    FAILED,
    CLOSED
  }

  Transaction(LakeCore core, CommitNote note, Isolation isolation, Set<Thread> beginners) {
    this.core = core;
    this.note = note;
    this.beginners = beginners;
    this.beginner = Thread.currentThread();
    if (!beginners.add(beginner)) {
      throw new InvalidInputException(
          "This thread has an open transaction on the lake already. Commit or close it first; transactions do not nest.");
    }
    try {
      this.changes = new ChangeSet(core, core.refresh(), isolation);
    } catch (RuntimeException e) {
      beginners.remove(beginner);
      throw e;
    }
  }

  /** Runs something that needs an open transaction, and no other thread in it. */
  <T> T inside(Supplier<T> work) {
    Thread me = Thread.currentThread();
    Thread other = busy.get();
    boolean mine = other == me;
    if (!mine && !busy.compareAndSet(null, me)) {
      throw new InvalidInputException(
          "The transaction is in use by thread %s. It may be handed on, but used by one at a time."
              .formatted(other == null ? "another one" : other.getName()));
    }
    try {
      if (state != State.OPEN) {
        throw ended();
      }
      return work.get();
    } catch (InvalidInputException | NotFoundException e) {
      throw e; // refused: nothing of it was taken
    } catch (RuntimeException | Error e) {
      if (state == State.OPEN) {
        failure = e;
        giveUp(State.FAILED);
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
        switch (state) {
          case COMMITTED -> "The transaction was committed. Begin another one.";
          case UNKNOWN ->
              "The transaction's commit has not ended: the store did not say how. Ask the attempt that came with the error.";
          case FAILED ->
              "The transaction ended when a part of it failed: %s Nothing was changed; begin another one."
                  .formatted(failure.getMessage());
          default -> "The transaction was closed without a commit. Begin another one.";
        },
        failure);
  }

  /** Puts all rows that were added into their tables' state. */
  void settle() {
    try {
      tables.values().forEach(TransactionTable::settle);
    } catch (InvalidInputException e) {
      failure = e; // rows that were taken cannot be there, so that the rest is not what was wanted
      giveUp(State.FAILED);
      throw e;
    }
  }

  private void giveUp(State ended) {
    end(ended);
    tables.values().forEach(TransactionTable::giveUpRows);
    changes.discard();
  }

  LakeCore core() {
    return core;
  }

  ChangeSet changes() {
    return changes;
  }

  /** The lake as it was when the transaction started, without its own changes. */
  public LakeView start() {
    LakeState started = changes.start();
    return new LakeView(core, started);
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there is none
   */
  public TransactionTable table(String name) {
    return inside(
        () -> {
          TableChange change = changes.table(name).orElse(null);
          if (change == null) {
            LakeView.find(changes.start(), name, core);
            throw new NotFoundException("Table " + name + " was dropped in this transaction.");
          }
          return handle(change);
        });
  }

  private TransactionTable handle(TableChange change) {
    return tables.computeIfAbsent(change, c -> new TransactionTable(this, c));
  }

  /** Creates a table. */
  public TransactionTable createTable(String name, Schema schema) {
    return createTable(name, schema, TableSettings.DEFAULTS);
  }

  /** Creates a table. */
  public TransactionTable createTable(String name, Schema schema, TableSettings settings) {
    return createTable(name, schema, settings, LayoutPlan.none());
  }

  /** Creates a table that lays its rows out by a plan. */
  public TransactionTable createTable(
      String name, Schema schema, TableSettings settings, LayoutPlan layout) {
    return inside(
        () -> handle(changes.create(name, TableForm.of(schema, layout.bind(schema)), settings)));
  }

  /** Drops a table; it can be brought back once this is committed. */
  public void dropTable(String name) {
    TransactionTable table = table(name);
    inside(
        () -> {
          table.giveUpRows();
          changes.drop(table.change());
          return null;
        });
  }

  /** Gives the commit a note. */
  public Transaction noting(String text) {
    return note(note.withNote(text));
  }

  /** Names the statement that causes the commit. */
  public Transaction because(String statement) {
    return note(note.withStatement(statement));
  }

  /** Gives the commit a name and a value of the caller's own. */
  public Transaction label(String name, String value) {
    return note(note.withLabel(name, value));
  }

  private Transaction note(CommitNote changed) {
    return inside(
        () -> {
          note = changed;
          return this;
        });
  }

  /** Commits with a note. */
  public Optional<Committed> commit(String text) {
    noting(text);
    return commit();
  }

  /**
   * Commits everything.
   *
   * @return the commit; empty when the transaction changed nothing
   * @throws org.ysteron.error.ConflictException when it met another commit that it cannot be
   *     combined with; the message names table, versions and who did what. Nothing was changed
   * @throws UnknownOutcomeException when the store does not say whether it happened; its {@link
   *     CommitAttempt} goes on
   */
  public Optional<Committed> commit() {
    return inside(
        () -> {
          settle();
          // Whatever ends this other than a plain refusal leaves the files, which may be committed.
          end(State.UNKNOWN);
          try {
            Optional<Committed> committed = changes.commit(note);
            end(State.COMMITTED);
            return committed;
          } catch (UnknownOutcomeException e) {
            throw e;
          } catch (RuntimeException e) {
            end(State.CLOSED);
            changes.discard();
            throw e;
          }
        });
  }

  private void end(State ended) {
    state = ended;
    beginners.remove(beginner);
  }

  @Override
  public void close() {
    if (state == State.OPEN) {
      giveUp(State.CLOSED);
    }
  }
}
