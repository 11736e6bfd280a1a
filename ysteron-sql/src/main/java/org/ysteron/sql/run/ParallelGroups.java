package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.work.Workers;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * Groups by several threads: each reads a share of the files and groups it, then all are united.
 * Only what does not depend on the order of rows is done so; sums of approximate numbers do. Groups
 * that do not fit in memory are left to one thread.
 */
final class ParallelGroups {
  private final AggregateStep step;
  private final AtomicBoolean stops = new AtomicBoolean();

  private ParallelGroups(AggregateStep step) {
    this.step = step;
  }

  /**
   * Reads and groups all rows.
   *
   * @param rows those of the input of the step
   * @param groups gets the groups of each set
   * @return whether that was done; else one thread has to do it
   */
  static boolean read(AggregateStep step, Pipeline rows, Running running, List<Groups> groups) {
    List<Step> parts = rows.parts(running.threads());
    return !parts.isEmpty() && new ParallelGroups(step).read(parts, running, groups);
  }

  /** Whether there are several threads, and what they have grouped can be united. */
  static boolean canRead(AggregateStep step, Running running) {
    if (running.threads() <= 1) {
      return false;
    }
    for (Aggregate aggregate : step.aggregates()) {
      boolean merges =
          aggregate.function() == Aggregate.Function.GROUPING
              || (!aggregate.isDistinct() && Accumulator.merges(aggregate, step.input(), running));
      if (!merges) {
        return false;
      }
    }
    return true;
  }

  private boolean read(List<Step> parts, Running running, List<Groups> groups) {
    List<List<Groups>> all = new ArrayList<>();
    List<Runnable> tasks = new ArrayList<>();
    for (Step part : parts) {
      List<Groups> own = new ArrayList<>();
      step.sets().forEach(set -> own.add(new Groups(step, set, false, running)));
      all.add(own);
      tasks.add(() -> read(part, own, running));
    }
    try {
      Workers.runEach(tasks);
      running.check();
      if (stops.get()) {
        all.forEach(ParallelGroups::close);
        return false;
      }
      List<Groups> first = all.get(0);
      for (List<Groups> others : all.subList(1, all.size())) {
        for (int set = 0; set < first.size(); set++) {
          first.get(set).merge(others.get(set));
        }
        close(others);
      }
      groups.addAll(first);
      return true;
    } catch (RuntimeException | Error e) {
      all.forEach(ParallelGroups::close);
      throw e;
    }
  }

  private static void close(List<Groups> groups) {
    groups.forEach(Groups::close);
  }

  /** Groups the rows of a part; another part that fails, or has no memory left, ends this one. */
  private void read(Step part, List<Groups> groups, Running running) {
    try (Source<SelectedBatch> rows = part.open(running)) {
      Optional<SelectedBatch> batch = rows.next();
      while (batch.isPresent() && !stops.get()) {
        SelectedBatch some = batch.get();
        groups.forEach(one -> one.add(some));
        if (groups.stream().anyMatch(Groups::isTight)) {
          stops.set(true);
        }
        batch = rows.next();
      }
      groups.forEach(Groups::end);
    } catch (RuntimeException | Error e) {
      stops.set(true);
      throw e;
    }
  }
}
