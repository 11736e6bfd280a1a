package org.ysteron;

import java.util.Objects;
import java.util.UUID;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.statement.CheckReturnValue;
import org.ysteron.internal.upkeep.CompactionRun;
import org.ysteron.internal.upkeep.PackChoice;
import org.ysteron.option.Budget;
import org.ysteron.report.CompactionPlan;
import org.ysteron.report.CompactionReport;

/**
 * Packs the small files of each partition into few of the size that the table's setting {@code
 * file.bytes} names; rows that no longer count are left behind. No row changes, and earlier
 * versions keep the files they have. Which files are packed is decided so that a table that grows
 * is not rewritten again and again: a few small files stay. It makes several commits, each of which
 * stands; it may be stopped and run again at any time, beside writers and beside others that pack.
 * Immutable.
 */
public final class Compaction {
  private final LakeCore core;
  private final CommitNote note;
  private final UUID id;
  private final String name;
  private final PackChoice choice;

  Compaction(LakeCore core, CommitNote note, UUID id, String name) {
    this(core, note, id, name, PackChoice.STANDARD);
  }

  private Compaction(LakeCore core, CommitNote note, UUID id, String name, PackChoice choice) {
    this.core = core;
    this.note = note;
    this.id = id;
    this.name = name;
    this.choice = choice;
  }

  private Compaction of(PackChoice other) {
    return new Compaction(core, note, id, name, other);
  }

  /** Only files that may hold rows for which a condition is true; they are packed as a whole. */
  @CheckReturnValue
  public Compaction where(Condition also) {
    return of(choice.where(also));
  }

  /** All small files, even two: fewer files, at the cost of rewriting them again next time. */
  @CheckReturnValue
  public Compaction thoroughly() {
    return of(choice.thoroughly());
  }

  /** Files of earlier layouts and schemas, too, whatever their size: they come to the newest. */
  @CheckReturnValue
  public Compaction renewing() {
    return of(choice.renewing());
  }

  /** No more than a budget. */
  @CheckReturnValue
  public Compaction within(Budget budget) {
    return of(choice.within(Objects.requireNonNull(budget)));
  }

  /**
   * Packs. A file that cannot be read is left out and named in the report.
   *
   * @throws org.ysteron.error.ConflictException when the table is dropped; what was committed
   *     before stands
   */
  public CompactionReport run() {
    return new CompactionRun(core, note, id, name, choice).run();
  }

  /** What would be packed now, without doing it and whatever the budget. */
  public CompactionPlan rehearse() {
    return new CompactionRun(core, note, id, name, choice).plan();
  }
}
