package org.ysteron;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.NamedRows;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.WriteRules;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.Committed;
import org.ysteron.report.Grown;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.report.WriteResult;
import org.ysteron.store.StoreException;

/**
 * Appends rows to a table, in one commit. The rows are in the table after {@link #commit()};
 * closing without it adds nothing. Memory use does not grow with the rows. For one thread.
 *
 * <p>A row that is rejected is not added, and the append continues. Any other failure ends the
 * append, and none of its rows is in the table: each further call throws an {@link EndedException}.
 * If another commit added a constraint that rows of this append break, the commit fails, unless
 * {@link WriteRules#skippingRejected()} is set, which skips these rows.
 *
 * <pre>{@code
 * try (Append append = table.append()) {
 *   append.add("ORR-01", Instant.parse("2026-03-01T12:00:00Z"), new BigDecimal("412.5"));
 *   append.commit();
 * }
 * }</pre>
 */
public final class Append implements RowSink, AutoCloseable {
  private final CommitNote note;
  private final ChangeSet set;
  private final TableChange change;
  private final VersionPage table;
  private final NamedRows rows;
  private State state = State.OPEN;

  private enum State {
    OPEN,
    UNKNOWN,
    ENDED
  }

  Append(CommitNote note, ChangeSet set, TableChange change, WriteRules rules) {
    this.note = note;
    this.set = set;
    this.change = change;
    this.table = change.draft();
    this.rows = new NamedRows(change, rules);
    change.setFinal();
  }

  private NamedRows open() {
    if (state != State.OPEN) {
      throw new EndedException(
          EndedException.Kind.APPEND,
          table.name(),
          state == State.UNKNOWN
              ? "The outcome of this append's commit to %s is unknown, because the store did not reply. Run the attempt of the exception to find out."
                  .formatted(table.name())
              : "This append to %s has ended. Start another one for more rows."
                  .formatted(table.name()),
          null);
    }
    return rows;
  }

  private void adding(Consumer<NamedRows> row) {
    try {
      row.accept(open());
    } catch (ExpiredException | StoreException e) {
      throw core().missed(e, set.start());
    }
  }

  private LakeCore core() {
    return set.core();
  }

  @Override
  public Append add(@Nullable Object... values) {
    adding(rows -> rows.add(values));
    return this;
  }

  /**
   * Adds a row by names; a column that it lacks gets its default, or null. For a column that the
   * table lacks the rules of this append decide.
   */
  @Override
  public Append addRow(Row row) {
    adding(rows -> rows.add(row));
    return this;
  }

  /** Adds a row by the members of a parsed JSON object, by the rules of this append. */
  @Override
  public Append addObject(Map<String, @Nullable Object> members) {
    adding(rows -> rows.add(members));
    return this;
  }

  /** Adds a row of texts, by the rules of this append. */
  @Override
  public Append addText(TextRow row) {
    adding(rows -> rows.add(row));
    return this;
  }

  @Override
  public Append addRecord(Record record) {
    adding(rows -> rows.add(record));
    return this;
  }

  @Override
  public Append addBatch(Batch batch) {
    adding(rows -> rows.add(batch));
    return this;
  }

  /** Rows added so far. */
  public long rows() {
    return rows.rows();
  }

  /** The rows that the commit has left out; none before it, and unless the rules say so. */
  public SkippedRows skipped() {
    return change.skipped();
  }

  /** How the table has grown by the rows, once they are committed. */
  public Grown grown() {
    return rows.grown();
  }

  /** About the bytes of data files that the rows take so far. */
  long bytes() {
    return rows.bytes();
  }

  /** Commits the rows; with none, a version without new files. */
  public WriteResult commit() {
    return commit(note.note());
  }

  /** Commits the rows; when the store does not say how that ended, it is asked again some times. */
  WriteResult commitUntilKnown() {
    Committed committed = Retries.untilKnown(() -> commit().committed().orElseThrow());
    state = State.ENDED;
    return result(committed);
  }

  /**
   * Commits the rows with a note.
   *
   * @throws org.ysteron.error.KeyExistsException when other rows have keys of these, by the table's
   *     setting {@code key.test}
   * @throws org.ysteron.error.ConflictException when the table was dropped, or altered so that the
   *     rows do not fit
   * @throws UnknownOutcomeException when the store does not say whether it happened; the data files
   *     stay, and its {@link UnknownOutcomeException.Attempt} goes on
   */
  public WriteResult commit(String text) {
    NamedRows ready = open();
    try {
      Committed committed = core().startedAt(set.start(), () -> finished(ready, text));
      state = State.ENDED;
      return result(committed);
    } catch (UnknownOutcomeException e) {
      throw e;
    } catch (RuntimeException e) {
      state = State.ENDED;
      rows.close();
      set.discard();
      throw e;
    }
  }

  private Committed finished(NamedRows ready, String text) {
    ready.finish();
    if (ready.rows() == 0) {
      change.append(List.of());
    }
    state = State.UNKNOWN;
    return set.commit(note.withNote(text)).orElseThrow();
  }

  /** What this did when it was committed. */
  WriteResult result(Committed committed) {
    ChangeReport there = rows.report().skippingRejected(change.skipped().rows());
    return new WriteResult(there, Optional.of(committed), change.skipped(), rows.grown());
  }

  /** Gives up what was not committed. */
  @Override
  public void close() {
    if (state == State.OPEN) {
      state = State.ENDED;
      rows.close();
      set.discard();
    }
  }
}
