package org.ysteron;

import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.ysteron.data.Schema;
import org.ysteron.error.ConflictException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.internal.position.ReaderPositions;
import org.ysteron.internal.remote.StagedApplication;
import org.ysteron.internal.remote.StagedChangeForm;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.Isolation;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.report.WriteResult;
import org.ysteron.task.StagedChange;
import org.ysteron.task.WriteTask;

/**
 * Changes to any number of tables, in one commit: either all of them are committed, or none. Reads
 * see the lake as it was when the transaction started, with the changes of the transaction itself.
 * Closing it without {@link #commit()} changes nothing. A transaction can be handed from thread to
 * thread, but must be used by one at a time; there can be any number of transactions at once.
 *
 * <p>A row or statement that is rejected changes nothing, and the transaction continues. Any other
 * failure ends the transaction: {@link #commit()} then throws an {@link
 * org.ysteron.error.EndedException}, and nothing is changed.
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
  private final OpenTransaction open;
  private CommitNote note;

  Transaction(LakeCore core, CommitNote note, Isolation isolation) {
    this.note = note;
    this.open = new OpenTransaction(core, isolation);
  }

  /** Does work with it; what it misses since a sweep took it is a conflict, not a failure. */
  <T> T startedAt(Supplier<T> work) {
    return open.core().startedAt(open.changes().start(), work);
  }

  /** The lake as it was when the transaction started, without its own changes. */
  public LakeView start() {
    return new LakeView(open.core(), open.changes().start());
  }

  /**
   * The lake as this transaction sees it: as it was when the transaction started, with its own
   * changes so far. Scans of tables, and queries, are reads of the transaction.
   */
  public LakeView view() {
    return new LakeView(open.core(), open.changes().start(), Optional.of(open));
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there is none
   */
  public TransactionTable table(String name) {
    return open.inside(
        () -> {
          TableChange change = open.changes().table(name).orElse(null);
          if (change == null) {
            LakeView.find(open.changes().start(), name, open.core());
            throw new NotFoundException(
                NotFoundException.Kind.TABLE,
                name,
                "Table " + name + " was dropped in this transaction.");
          }
          return new TransactionTable(open, change);
        });
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
    return open.inside(
        () -> {
          TableForm form = TableForm.of(schema, LayoutText.bind(layout, schema));
          return new TransactionTable(open, open.changes().create(name, form, settings));
        });
  }

  /** Drops a table; it can be brought back once this is committed. */
  public void dropTable(String name) {
    open.drop(table(name).change());
  }

  /**
   * Does some work in this transaction, of which nothing is left when it fails; the transaction
   * continues with what was done before.
   */
  public <T> T atomically(Supplier<T> work) {
    return open.atomically(work);
  }

  /**
   * What another process needs to write rows for a table as it is in this transaction, which may
   * have created or altered it; they are taken by {@link #apply}.
   *
   * @throws NotFoundException when there is none
   */
  public WriteTask writeTask(String name) {
    return view().writeTask(name);
  }

  /**
   * Takes a staged change that was made for the start of this transaction: {@code
   * start().stagedChange()}. Positions and conditions are of rows as this transaction sees them.
   *
   * @return what was changed; when it is rejected, nothing was
   * @throws org.ysteron.error.WrongLakeException when it was made for another lake
   * @throws org.ysteron.error.KeyExistsException when other rows have keys of those that come
   */
  public WriteResult apply(StagedChange stagedChange) {
    StagedChangeForm form = StagedChangeForm.of(stagedChange.toBytes());
    return open.changing(changes -> new StagedApplication(changes, form).run());
  }

  /**
   * Up to where a named reader has read, and what it has yet to read up to the start of this
   * transaction.
   *
   * @throws NotFoundException when there is no such position; the message has the near names
   */
  public ReaderPosition position(String name) {
    return open.inside(() -> new GuardedPosition(open, ReaderPositions.open(open.changes(), name)));
  }

  /**
   * Sets a position at the start of this transaction, as if its tables had been read up to there;
   * for a reader that begins with a scan of them in this transaction.
   *
   * @throws org.ysteron.error.InvalidInputException when it exists and would go back
   */
  public void setPosition(String name, Duration limit, String... tables) {
    setPosition(name, limit, ReaderPositions.newest(tables));
  }

  void setPosition(String name, Duration limit, Map<String, Optional<Long>> versions) {
    open.inside(
        () -> {
          ReaderPositions.set(open.changes(), name, limit, versions);
          return Optional.empty();
        });
  }

  /**
   * Drops a position; what it held is held no more.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public void dropPosition(String name) {
    open.inside(
        () -> {
          ReaderPositions.drop(open.changes(), name);
          return Optional.empty();
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
  public Transaction labelled(String name, String value) {
    return note(note.withLabel(name, value));
  }

  private Transaction note(CommitNote changed) {
    return open.inside(
        () -> {
          note = changed;
          return this;
        });
  }

  /** Commits with a note. */
  public WriteResult commit(String text) {
    noting(text);
    return commit();
  }

  /**
   * Commits everything.
   *
   * @return what was done by all statements and rows; it has no commit when nothing was changed,
   *     and is nothing when a number of a named writer was applied before
   * @throws org.ysteron.error.ConflictException when it met another commit that it cannot be
   *     combined with; it tells the table, versions and who did what. Nothing was changed
   * @throws UnknownOutcomeException when the store does not say whether it happened; its {@link
   *     UnknownOutcomeException.Attempt} goes on
   */
  public WriteResult commit() {
    return open.commit(note);
  }

  /**
   * The conflict that {@link #commit()} would meet if it were called now; empty for none. The
   * transaction goes on either way.
   */
  public Optional<ConflictException> conflict() {
    return open.conflict(note);
  }

  /** Gives up what was not committed. */
  @Override
  public void close() {
    open.close();
  }
}
