package org.ysteron.internal.upkeep;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.StartedObject;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.Retention;

/** Says what upkeep has to do in a lake, and when. For one thread. */
public final class LakeCheckup {
  private final LakeCore core;
  private final LakeState state;

  private LakeCheckup(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
  }

  /** What is found in the newest state. */
  public static LakeHealth of(LakeCore core) {
    return core.ofNewest(state -> new LakeCheckup(core, state).run());
  }

  private LakeHealth run() {
    UpkeepState upkeep = state.page().upkeep();
    SweepReport.Amount free = SweepReport.Amount.NONE;
    long last = 0;
    TreeCursor<FreeObject, ?> objects = upkeep.freeTree(core.pages()).cursor();
    while (objects.next()) {
      FreeObject object = objects.value();
      last = object.entry();
      if (!object.isDirectory()) {
        free = free.and(object.bytes());
        continue;
      }
      for (StartedObject one : object.inDirectory(core.store())) {
        free = free.and(one.bytes());
      }
    }
    List<HoldRecord> holds = upkeep.holds(core.pages());
    SortedMap<String, LakeHealth.Forecast> tables = new TreeMap<>();
    for (TableListing table : state.page().tables(false, core.pages())) {
      tables.put(table.name(), forecast(table, holds));
    }
    return new LakeHealth(
        upkeep.horizon(),
        upkeep.floor(),
        free,
        free.objects() == 0 ? Optional.empty() : Optional.of(until(last)),
        state.number() + 1 - upkeep.floor(),
        holds.size(),
        state.page().unfinished(core.pages()),
        new KnownTimes(state, core.pages(), core.time()).clocks(),
        tables);
  }

  /** When nobody is at work any more who started before an entry. */
  private Instant until(long entry) {
    Instant time =
        entry == state.number()
            ? state.entry().time()
            : state
                .page()
                .entry(entry, core.pages())
                .map(EntryRecord::time)
                .orElse(state.entry().time());
    return time.atZone(ZoneOffset.UTC)
        .plus(LakeSettings.stored(state.page().upkeep().settings()).sweepAfter())
        .toInstant();
  }

  private LakeHealth.Forecast forecast(TableListing table, List<HoldRecord> holds) {
    PageStore pages = core.pages();
    Retention rules = ExpiryRun.rulesOf(table, state.page(), pages);
    List<HistoryRecord> records = TableHistory.of(table, pages).all();
    long[] gone = new long[4];
    long[] days = {0, 1, 7, 30};
    for (int i = 0; i < days.length; i++) {
      Instant then = core.time().plus(Duration.ofDays(days[i]));
      KeptVersions kept =
          new KeptVersions(
              table.id(),
              table.dropped(),
              records,
              rules,
              new KnownTimes(state, pages, then),
              holds,
              Integer.MAX_VALUE);
      gone[i] = (long) records.size() - kept.count();
    }
    return new LakeHealth.Forecast(
        rules.toString(), records.size(), gone[0], gone[1], gone[2], gone[3]);
  }
}
