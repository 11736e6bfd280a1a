package org.ysteron;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.change.ChangeSet;
import org.ysteron.change.Isolation;
import org.ysteron.change.TableChange;
import org.ysteron.change.TableWriter;
import org.ysteron.change.WriterStep;
import org.ysteron.commit.CommitNote;
import org.ysteron.commit.Committed;
import org.ysteron.commit.LakeCore;
import org.ysteron.commit.UnknownOutcomeException;
import org.ysteron.data.Limits;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.table.TableHead;
import org.ysteron.table.WriterRecord;

/**
 * A writer with a name, whose appends are applied exactly once each. Each append has a sequence
 * number, one higher or more than the one before; the table remembers the last one that was
 * applied. After a crash, or when it is not known how an append ended, the same append is made
 * again, or the table is asked with {@link #lastApplied()}: a number that was applied is not
 * applied again.
 *
 * <p>Opening a writer ends all its earlier sessions: a predecessor that is thought dead, and is
 * not, can write no more. For one thread.
 *
 * <pre>{@code
 * NamedWriter writer = readings.openWriter("logger-7");
 * for (long number = writer.lastApplied() + 1; ...; number++) {
 *   writer.append(number, rows -> rows.add(...));
 * }
 * }</pre>
 */
public final class NamedWriter {
  private static final int MOST_TRIES = 20;

  private final LakeCore core;
  private final CommitNote note;
  private final UUID tableId;
  private final String table;
  private final String name;
  private final long session;

  private NamedWriter(
      LakeCore core, CommitNote note, UUID tableId, String table, String name, long session) {
    this.core = core;
    this.note = note;
    this.tableId = tableId;
    this.table = table;
    this.name = name;
    this.session = session;
  }

  /** Takes rows. */
  @FunctionalInterface
  public interface RowTarget {
    /** A row by the values of all columns, in their order. */
    void add(Object... values);
  }

  /** Gives the rows of an append; the same ones whenever it is asked under the same number. */
  @FunctionalInterface
  public interface Rows {
    void to(RowTarget target);
  }

  static NamedWriter open(LakeCore core, CommitNote note, UUID tableId, String table, String name) {
    Limits.text(name, Limits.NAME, "name of a writer");
    if (name.isBlank()) {
      throw new InvalidInputException("A named writer needs a name.");
    }
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
    TableChange change = set.table(tableId, table);
    change.step(WriterStep.open(name));
    set.commit(note);
    return new NamedWriter(core, note, tableId, table, name, change.stepped().session());
  }

  private Optional<WriterRecord> newest() {
    return core.refresh()
        .page()
        .table(tableId, core.pages())
        .map(listing -> TableHead.read(listing.head(), core.pages()))
        .flatMap(head -> head.writer(name, core.pages()));
  }

  public String name() {
    return name;
  }

  /** The number of this session, one higher than that of the one before. */
  public long session() {
    return session;
  }

  /** The last sequence number that the table has applied, or -1. */
  public long lastApplied() {
    return newest().map(WriterRecord::sequence).orElse(-1L);
  }

  /**
   * Appends rows, exactly once.
   *
   * @param sequence higher than those before
   * @return the commit; empty when the number, or a higher one, was applied before
   * @throws InvalidInputException when the last number applied is this one, with other rows
   * @throws ConflictException when another session of this writer was opened
   * @throws UnknownOutcomeException when the store does not say whether it happened; append it
   *     again
   */
  public Optional<Committed> append(long sequence, Rows rows) {
    if (sequence < 0) {
      throw new InvalidInputException(
          "The sequence number is %d; it must not be negative.".formatted(sequence));
    }
    for (int tries = 1; ; tries++) {
      ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
      try {
        TableChange change = set.table(tableId, table);
        TableWriter writer = change.writer().digesting();
        rows.to(writer::add);
        change.append(writer.finish());
        WriterStep step = new WriterStep(name, session, sequence, writer.digest());
        if (isApplied(change, step)) {
          set.discard();
          return Optional.empty();
        }
        change.step(step);
        Optional<Committed> committed = set.commit(note);
        return committed;
      } catch (WriterStep.AlreadyApplied e) {
        set.discard();
        return Optional.empty();
      } catch (UnknownOutcomeException e) {
        throw e;
      } catch (ConflictException e) {
        set.discard();
        if (!e.isWorthAnotherTry() || tries == MOST_TRIES) {
          throw e;
        }
      } catch (RuntimeException e) {
        set.discard();
        throw e;
      }
      core.pause(tries);
    }
  }

  /** Whether the state that this started from has the number already. */
  private boolean isApplied(TableChange change, WriterStep step) {
    Optional<WriterRecord> record = change.writer(name);
    record.ifPresent(found -> step.check(found, table));
    return record.filter(step::isApplied).isPresent();
  }
}
