package org.ysteron.internal.upkeep;

import java.time.temporal.TemporalAmount;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.maintenance.Expiry;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.maintenance.Sweep;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.maintenance.Upkeep;
import org.ysteron.maintenance.UpkeepPlan;
import org.ysteron.maintenance.UpkeepReport;
import org.ysteron.option.Budget;
import org.ysteron.option.Retention;

/** What a program asks for; each makes a run of its own when it is carried out. */
public final class Requests {
  private Requests() {}

  /** A compaction of a table. */
  public static Compaction compaction(LakeCore core, CommitNote note, UUID table, String name) {
    return new OfCompaction(core, note, table, name, PackChoice.STANDARD);
  }

  /** An expiry of a table's versions; of all tables' if none is given. */
  public static Expiry expiry(LakeCore core, CommitNote note, Optional<UUID> table) {
    return new OfExpiry(core, note, table, Optional.empty());
  }

  /** A sweep. */
  public static Sweep sweep(LakeCore core, CommitNote note) {
    return new OfSweep(core, note, SweepChoice.STANDARD);
  }

  /** All that is due. */
  public static Upkeep upkeep(LakeCore core, CommitNote note) {
    return new OfUpkeep(core, note, Budget.ALL);
  }

  private record OfCompaction(
      LakeCore core, CommitNote note, UUID table, String name, PackChoice choice)
      implements Compaction {
    private Compaction of(PackChoice other) {
      return new OfCompaction(core, note, table, name, other);
    }

    @Override
    public Compaction where(Condition also) {
      return of(choice.where(also));
    }

    @Override
    public Compaction full() {
      return of(choice.full());
    }

    @Override
    public Compaction renewing() {
      return of(choice.renewing());
    }

    @Override
    public Compaction within(Budget budget) {
      return of(choice.within(Objects.requireNonNull(budget)));
    }

    @Override
    public CompactionReport run() {
      return new CompactionRun(core, note, table, name, choice).run();
    }

    @Override
    public CompactionPlan dryRun() {
      return new CompactionRun(core, note, table, name, choice).plan();
    }
  }

  private record OfExpiry(
      LakeCore core, CommitNote note, Optional<UUID> table, Optional<Retention> rules)
      implements Expiry {
    @Override
    public Expiry keeping(Retention kept) {
      return new OfExpiry(core, note, table, Optional.of(kept));
    }

    @Override
    public ExpiryReport run() {
      ExpiryRun run = new ExpiryRun(core, note, rules);
      return table.isEmpty() ? run.runAll() : run.run(listing());
    }

    @Override
    public ExpiryReport dryRun() {
      ExpiryRun run = new ExpiryRun(core, note, rules);
      return table.isEmpty() ? run.dryRunAll() : run.dryRun(listing());
    }

    private TableListing listing() {
      return core.refresh()
          .page()
          .table(table.orElseThrow(), core.pages())
          .orElseThrow(
              () ->
                  new NotFoundException(
                      NotFoundException.Kind.TABLE,
                      table.orElseThrow().toString(),
                      "The table was dropped and has expired."));
    }
  }

  private record OfSweep(LakeCore core, CommitNote note, SweepChoice choice) implements Sweep {
    private Sweep of(SweepChoice other) {
      return new OfSweep(core, note, other);
    }

    @Override
    public Sweep after(TemporalAmount time) {
      Retention.checkNotNegative(time);
      return of(choice.after(time));
    }

    @Override
    public Sweep now() {
      return of(choice.now());
    }

    @Override
    public Sweep withEntries() {
      return of(choice.raisingFloor());
    }

    @Override
    public Sweep full() {
      return of(choice.full());
    }

    @Override
    public Sweep within(Budget budget) {
      return of(choice.within(budget));
    }

    @Override
    public SweepReport run() {
      return new SweepRun(core, note, choice).run();
    }

    @Override
    public SweepReport dryRun() {
      return new SweepRun(core, note, choice).dryRun();
    }
  }

  private record OfUpkeep(LakeCore core, CommitNote note, Budget budget) implements Upkeep {
    @Override
    public Upkeep within(Budget most) {
      return new OfUpkeep(core, note, most);
    }

    @Override
    public UpkeepReport run() {
      return new UpkeepRun(core, note, budget).run();
    }

    @Override
    public UpkeepPlan dryRun() {
      return new UpkeepRun(core, note, budget).plan();
    }
  }
}
