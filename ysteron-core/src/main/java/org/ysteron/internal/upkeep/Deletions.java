package org.ysteron.internal.upkeep;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.work.Watch;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Budget;
import org.ysteron.progress.Progress;
import org.ysteron.store.ObjectStore;

/**
 * Deletes objects, many at once. Before each batch it is looked whether the lake is still the one
 * that was looked at, and whole: its entry with the horizon is there with its hash, and its newest
 * entry can be read. For one thread.
 */
final class Deletions {
  private static final int BATCH = 1000;

  private final LakeCore core;
  private final LakeState seen;
  private final Budget budget;
  private final long began;
  private final SortedMap<SweepReport.Kind, SweepReport.Amount> deleted = new TreeMap<>();
  private final List<String> waiting = new ArrayList<>();
  private final boolean isDryRun;
  private final Watch.Step step;
  private long objects;
  private long counted;
  private boolean isSpent;

  /**
   * Deletes nothing yet.
   *
   * @param seen the state with the horizon
   * @param began when the run began, by the process's clock for spans
   */
  Deletions(LakeCore core, LakeState seen, Budget budget, long began, boolean isDryRun) {
    this.core = core;
    this.seen = seen;
    this.budget = budget;
    this.began = began;
    this.isDryRun = isDryRun;
    this.step = core.watch().step("delete objects", Progress.Unit.OBJECTS);
  }

  /** What was deleted. */
  SortedMap<SweepReport.Kind, SweepReport.Amount> deleted() {
    return deleted;
  }

  /** Whether the budget is, so that nothing more is deleted. */
  boolean isSpent() {
    return isSpent;
  }

  /** Deletes an object, now or with others; false when the budget is spent. */
  boolean delete(String name, SweepReport.Kind kind, long bytes) {
    if (isSpent) {
      return false;
    }
    waiting.add(name);
    count(kind, bytes);
    if (waiting.size() == BATCH * Math.max(1, core.workers().threads())) {
      flush();
    }
    look();
    return true;
  }

  /** Whether the budget allows no more than what was deleted or waits to be. */
  private void look() {
    Duration since = Duration.ofNanos(System.nanoTime() - began);
    isSpent = isSpent || budget.isSpent(counted, objects, since);
  }

  /** Whether nothing is deleted, but only told. */
  boolean isDryRun() {
    return isDryRun;
  }

  /** Removes what there is of an unfinished object. */
  void discard(ObjectStore.Unfinished unfinished) {
    if (!isDryRun) {
      core.store().discard(unfinished);
    }
    count(SweepReport.Kind.UNFINISHED, 0);
  }

  private void count(SweepReport.Kind kind, long bytes) {
    objects++;
    counted += bytes;
    deleted.put(kind, deleted.getOrDefault(kind, SweepReport.Amount.NONE).and(bytes));
  }

  /** By all workers, each so many at once. */
  private void deleteWaiting() {
    int threads = Math.max(1, core.workers().threads());
    int each = Math.max(1, (waiting.size() + threads - 1) / threads);
    List<Runnable> parts = new ArrayList<>();
    for (int from = 0; from < waiting.size(); from += each) {
      List<String> part = List.copyOf(waiting.subList(from, Math.min(waiting.size(), from + each)));
      parts.add(() -> core.store().deleteAll(part));
    }
    core.workers().runAll(parts);
  }

  /** Deletes what is waiting for others. */
  void flush() {
    if (!waiting.isEmpty()) {
      if (!isDryRun) {
        core.checkStill(seen);
        step.add(0);
        deleteWaiting();
      }
      step.add(waiting.size());
      waiting.clear();
      look();
    }
  }
}
