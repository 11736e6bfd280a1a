package org.ysteron.internal.upkeep;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.Retention;
import org.ysteron.progress.Progress;
import org.ysteron.report.Committed;

/**
 * Carries out rules for some tables, in a commit for each that has something to let go, or in
 * several when many versions go. For one thread.
 */
public final class ExpiryRun {
  private static final int MOST = 50_000;

  private static volatile int most = MOST;

  /** Sets how many versions go in one commit at most, for tests; 0 for what it is. */
  static void makeMostInOneCommit(int versions) {
    most = versions == 0 ? MOST : versions;
  }

  private final LakeCore core;
  private final CommitNote note;
  private final Optional<Retention> rules;

  /**
   * Expires nothing yet.
   *
   * @param rules for all tables; empty for each one's own, or else the lake's
   */
  public ExpiryRun(LakeCore core, CommitNote note, Optional<Retention> rules) {
    this.core = core;
    this.note = note;
    this.rules = rules;
  }

  /** The rules for a table: its own, else the lake's. */
  static Retention rulesOf(TableListing listing, LakePage lake, PageStore pages) {
    Retention own = VersionPage.read(listing.page(), pages).settings().retention();
    return own.keepsEverything() ? LakeSettings.stored(lake.upkeep().settings()).retention() : own;
  }

  private ExpiryChange change(TableListing listing, int inOneCommit) {
    UUID id = listing.id();
    return new ExpiryChange(
        id,
        listing.name(),
        core::time,
        lake ->
            rules.orElseGet(
                () ->
                    lake.table(id, core.pages())
                        .map(now -> rulesOf(now, lake, core.pages()))
                        .orElse(Retention.EVERYTHING)),
        inOneCommit);
  }

  private List<TableListing> tables() {
    return core.ofNewest(now -> now.page().allByName(core.pages()));
  }

  /** What would go of all tables. */
  public ExpiryReport dryRunAll() {
    ExpiryReport all = ExpiryReport.NOTHING;
    for (TableListing table : tables()) {
      all = all.and(dryRun(table));
    }
    return all;
  }

  /** Lets go what is to go of all tables. */
  public ExpiryReport runAll() {
    ExpiryReport all = ExpiryReport.NOTHING;
    for (TableListing table : tables()) {
      all = all.and(run(table));
    }
    return all;
  }

  /** Lets go what is to go of all tables, but for those that something stands in the way of. */
  ExpiryReport runAll(Map<String, String> failed) {
    ExpiryReport all = ExpiryReport.NOTHING;
    for (TableListing table : tables()) {
      try {
        all = all.and(run(table));
      } catch (ConflictException | DamagedException e) {
        failed.put(table.name(), e.getMessage());
      }
    }
    return all;
  }

  /** What would go of a table. */
  public ExpiryReport dryRun(TableListing table) {
    ExpiryChange change = change(table, Integer.MAX_VALUE);
    try {
      core.ofNewest(
          now -> {
            core.dryRun(change, note);
            return now;
          });
    } catch (NothingToDo | NotFoundException e) {
      return ExpiryReport.NOTHING; // or another one let it go as a whole
    }
    return new ExpiryReport(List.of(change.did()), List.of());
  }

  /** Lets go what is to go of a table; when that is much, in several commits. */
  public ExpiryReport run(TableListing table) {
    Watch.Step step =
        core.watch().step("expire versions of " + table.name(), Progress.Unit.VERSIONS);
    List<ExpiryReport.Expired> parts = new ArrayList<>();
    List<Committed> commits = new ArrayList<>();
    while (Retries.onConflict(core, () -> isMoreLeft(table, parts, commits))) {
      step.add(parts.get(parts.size() - 1).versions());
    }
    return parts.isEmpty()
        ? ExpiryReport.NOTHING
        : new ExpiryReport(
            List.of(parts.stream().reduce(ExpiryReport.Expired::then).get()), commits);
  }

  private boolean isMoreLeft(
      TableListing table, List<ExpiryReport.Expired> parts, List<Committed> commits) {
    int inOneCommit = most;
    ExpiryChange change = change(table, inOneCommit);
    try {
      commits.add(Retries.untilKnown(() -> core.commit(change, note)));
      parts.add(change.did());
      return change.did().versions() == inOneCommit;
    } catch (NothingToDo | NotFoundException e) {
      return false;
    }
  }
}
