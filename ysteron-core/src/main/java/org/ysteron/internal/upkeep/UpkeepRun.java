package org.ysteron.internal.upkeep;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.concurrent.ThreadLocalRandom;
import java.util.stream.Collectors;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.maintenance.UpkeepPlan;
import org.ysteron.maintenance.UpkeepReport;
import org.ysteron.option.Budget;
import org.ysteron.option.LakeSettings;

/**
 * Does what is due, in an order by which a small budget is not eaten by the costly part: versions
 * expire, what is free is swept, and with what is left of the budget files are packed, table after
 * table from one that is chosen at random, so that several machines do not begin with the same. A
 * table that something stands in the way of is left out and told. For one thread.
 */
public final class UpkeepRun {
  private static final int MOST_NAMED = 3;

  private final LakeCore core;
  private final CommitNote note;
  private final Budget budget;
  private final long began = System.nanoTime();

  /** Does nothing yet. */
  public UpkeepRun(LakeCore core, CommitNote note, Budget budget) {
    this.core = core;
    this.note = note;
    this.budget = budget;
  }

  /** Does what is due. */
  public UpkeepReport run() {
    SortedMap<String, String> failed = new TreeMap<>();
    ExpiryReport expiry = new ExpiryRun(core, note, Optional.empty()).runAll(failed);
    SweepReport sweep = sweep(failed);
    SortedMap<String, CompactionReport> packed = new TreeMap<>();
    boolean isSpent = sweep.isSpent();
    long bytes = sweep.all().bytes();
    long files = sweep.all().objects();
    List<TableListing> tables = packable();
    Collections.rotate(tables, ThreadLocalRandom.current().nextInt(Math.max(1, tables.size())));
    for (TableListing table : tables) {
      if (isSpent(bytes, files)) {
        isSpent = true;
        break;
      }
      PackChoice choice = PackChoice.STANDARD.within(left(bytes, files));
      try {
        CompactionReport report =
            new CompactionRun(core, note, table.id(), table.name(), choice).run();
        if (!report.commits().isEmpty()) {
          packed.put(table.name(), report);
        }
        if (!report.skipped().isEmpty()) {
          failed.put(table.name(), reasons(report.skipped()));
        }
        isSpent |= report.isSpent();
        bytes += report.read().bytes();
        files += report.read().files();
      } catch (ConflictException | DamagedException | NotFoundException | ExpiredException e) {
        failed.put(table.name(), e.getMessage());
      }
    }
    return new UpkeepReport(expiry, sweep, packed, failed, isSpent);
  }

  /** Sweeps; what keeps it from that keeps nothing else from being done. */
  private SweepReport sweep(SortedMap<String, String> failed) {
    try {
      return new SweepRun(core, note, SweepChoice.STANDARD.within(left(0, 0))).run();
    } catch (ConflictException | DamagedException | ExpiredException e) {
      failed.put("the sweep", e.getMessage());
      UpkeepState upkeep = core.refresh().page().upkeep();
      return new SweepReport(
          upkeep.horizon(),
          upkeep.floor(),
          new TreeMap<>(),
          0,
          SweepReport.Amount.NONE,
          List.of(),
          List.of(),
          false);
    }
  }

  /** Why files were left as they are, the first few by name. */
  private static String reasons(List<CompactionReport.SkippedFile> files) {
    String first =
        files.stream()
            .limit(MOST_NAMED)
            .map(file -> file.name() + ": " + file.reason())
            .collect(Collectors.joining(" "));
    return files.size() <= MOST_NAMED
        ? first
        : "%s And %d files more.".formatted(first, files.size() - MOST_NAMED);
  }

  private boolean isSpent(long bytes, long files) {
    return budget.isSpent(bytes, files, Duration.ofNanos(System.nanoTime() - began));
  }

  /** What is left of the budget; never nothing, since a part is done once it is begun. */
  private Budget left(long bytes, long files) {
    Duration since = Duration.ofNanos(System.nanoTime() - began);
    Budget left = Budget.ALL;
    if (budget.bytes().isPresent()) {
      left = left.ofBytes(Math.max(1, budget.bytes().getAsLong() - bytes));
    }
    if (budget.files().isPresent()) {
      left = left.ofFiles(Math.max(1, budget.files().getAsLong() - files));
    }
    if (budget.time().isPresent()) {
      Duration rest = budget.time().get().minus(since);
      left = left.ofTime(rest.compareTo(Duration.ofMillis(1)) > 0 ? rest : Duration.ofMillis(1));
    }
    return left;
  }

  /** The tables whose files are packed by the lake's settings. */
  private List<TableListing> packable() {
    return core.ofNewest(
        state ->
            LakeSettings.stored(state.page().upkeep().settings()).packs()
                ? new ArrayList<>(state.page().tables(false, core.pages()))
                : new ArrayList<>());
  }

  private SortedMap<String, String> rules(LakeState state) {
    SortedMap<String, String> rules = new TreeMap<>();
    for (TableListing table : state.page().tables(false, core.pages())) {
      rules.put(table.name(), ExpiryRun.rulesOf(table, state.page(), core.pages()).toString());
    }
    return rules;
  }

  /** What would be done now. */
  public UpkeepPlan plan() {
    SortedMap<String, String> rules = core.ofNewest(this::rules);
    SortedMap<String, CompactionPlan> packing = new TreeMap<>();
    for (TableListing table : packable()) {
      CompactionPlan plan =
          new CompactionRun(core, note, table.id(), table.name(), PackChoice.STANDARD).plan();
      if (!plan.groups().isEmpty()) {
        packing.put(table.name(), plan);
      }
    }
    return new UpkeepPlan(
        rules,
        new ExpiryRun(core, note, Optional.empty()).dryRunAll(),
        new SweepRun(core, note, SweepChoice.STANDARD).dryRun(),
        packing);
  }
}
