package org.ysteron;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.function.Function;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.transact.WriterStep;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;

/**
 * Makes an earlier version of a table current again, as a new version with its rows, columns,
 * checks, key and layout. Name and settings stay, and all later versions stay readable. Data files
 * are neither read nor written, so it takes as long for ten rows as for ten billion. Immutable.
 *
 * <p>Concurrent transactions that started before it conflict with it, and a {@link Follower} ends
 * at it. The numbers of named writers stay, so that a late repetition does not bring back rows that
 * were rewound, unless {@link #writerFrom} says otherwise. In a transaction it must come before all
 * other changes of its table.
 *
 * <pre>{@code
 * readings.rewind().to(41).run("the correction that forgot its WHERE");
 * }</pre>
 */
public final class Rewind {
  private final StatementRunner runner;
  private final Optional<Function<TableHistory, HistoryRecord>> target;
  private final Optional<WriterStep> step;

  Rewind(StatementRunner runner) {
    this(runner, Optional.empty(), Optional.empty());
  }

  private Rewind(
      StatementRunner runner,
      Optional<Function<TableHistory, HistoryRecord>> target,
      Optional<WriterStep> step) {
    this.runner = runner;
    this.target = target;
    this.step = step;
  }

  private Rewind of(Function<TableHistory, HistoryRecord> earlier) {
    return new Rewind(runner, Optional.of(earlier), step);
  }

  /** To a version by number. */
  @CheckReturnValue
  public Rewind to(long version) {
    return of(history -> history.byNumber(version));
  }

  /** To the version that was the newest at a time. */
  @CheckReturnValue
  public Rewind to(Instant time) {
    return of(history -> history.byTime(time));
  }

  /** To the version that was the newest some time ago. */
  @CheckReturnValue
  public Rewind ago(Duration duration) {
    return to(runner.core().clock().instant().minus(duration));
  }

  /**
   * Opens a new session of a named writer, which goes on from a number: what it had applied from
   * there on is no longer in the table, and is to be applied again.
   *
   * @param number the next number to apply
   */
  @CheckReturnValue
  public Rewind writerFrom(String writer, long number) {
    if (number < 0) {
      throw new InvalidInputException(
          "The number %d of writer %s is negative.".formatted(number, writer));
    }
    return new Rewind(runner, target, Optional.of(WriterStep.restart(writer, number)));
  }

  /** Does it. */
  public WriteResult run() {
    return run("");
  }

  /**
   * Does it.
   *
   * @param note for the commit
   * @return its commit; none when the table is at that version
   * @throws NotFoundException when there is no such version
   * @throws ExpiredException when it is not kept any more
   * @throws InvalidInputException when it was not said to which version
   */
  public WriteResult run(String note) {
    Function<TableHistory, HistoryRecord> earlier =
        target.orElseThrow(
            () ->
                new InvalidInputException(
                    "The rewind of table %s has no target version. Nothing was changed; give a version, a time or a bookmark."
                        .formatted(runner.table().name())));
    return runner.run(note, table -> rewind(table, earlier));
  }

  private ChangeReport rewind(TableChange table, Function<TableHistory, HistoryRecord> earlier) {
    table.rewind(earlier.apply(table.history()).version());
    step.ifPresent(table::step);
    return ChangeReport.NOTHING;
  }
}
