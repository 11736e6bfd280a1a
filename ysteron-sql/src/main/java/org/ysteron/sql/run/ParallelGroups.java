package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
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
  private static final AtomicInteger NEXT = new AtomicInteger();

  private final AggregateStep step;
  private final AtomicBoolean stops = new AtomicBoolean();
  private final AtomicReference<@Nullable Throwable> failure = new AtomicReference<>();

  private ParallelGroups(AggregateStep step) {
    this.step = step;
  }

  /**
   * Reads and groups all rows.
   *
   * @param groups gets the groups of each set
   * @return whether that was done; else one thread has to do it
   */
  static boolean read(AggregateStep step, Running running, List<Groups> groups) {
    for (Aggregate aggregate : step.aggregates()) {
      boolean merges =
          aggregate.function() == Aggregate.Function.GROUPING
              || (!aggregate.isDistinct() && Accumulator.merges(aggregate, step.input(), running));
      if (!merges) {
        return false;
      }
    }
    List<Step> parts = ScanParts.of(step.input(), running.threads());
    return !parts.isEmpty() && new ParallelGroups(step).read(parts, running, groups);
  }

  private boolean read(List<Step> parts, Running running, List<Groups> groups) {
    List<List<Groups>> all = new ArrayList<>();
    List<Thread> threads = new ArrayList<>();
    for (Step part : parts) {
      List<Groups> own = new ArrayList<>();
      step.sets().forEach(set -> own.add(new Groups(step, set, false, running)));
      all.add(own);
      Step same = running.standingIn(part, step.input());
      Thread thread =
          new Thread(() -> read(same, own, running), "ysteron-groups-" + NEXT.incrementAndGet());
      thread.setDaemon(true);
      threads.add(thread);
    }
    threads.forEach(Thread::start);
    boolean interrupted = joined(threads);
    try {
      Throwable failed = failure.get();
      if (failed instanceof Error error) {
        throw error;
      }
      if (failed instanceof RuntimeException exception) {
        throw exception;
      }
      running.check();
      if (stops.get()) {
        all.forEach(own -> own.forEach(Groups::close));
        return false;
      }
      for (int set = 0; set < step.sets().size(); set++) {
        Groups first = all.get(0).get(set);
        for (List<Groups> others : all.subList(1, all.size())) {
          first.merge(others.get(set));
          others.get(set).close();
        }
        groups.add(first);
      }
      return true;
    } catch (RuntimeException | Error e) {
      all.forEach(own -> own.forEach(Groups::close));
      throw e;
    } finally {
      if (interrupted) {
        Thread.currentThread().interrupt();
      }
    }
  }

  private static boolean joined(List<Thread> threads) {
    boolean interrupted = false;
    for (Thread thread : threads) {
      while (thread.isAlive()) {
        try {
          thread.join();
        } catch (InterruptedException e) {
          interrupted = true;
        }
      }
    }
    return interrupted;
  }

  private void read(Step part, List<Groups> groups, Running running) {
    try (Source<SelectedBatch> rows = part.open(running)) {
      for (Optional<SelectedBatch> batch = rows.next();
          batch.isPresent() && !stops.get();
          batch = rows.next()) {
        SelectedBatch some = batch.get();
        groups.forEach(one -> one.add(some));
        if (groups.stream().anyMatch(Groups::isTight)) {
          stops.set(true);
        }
      }
      groups.forEach(Groups::end);
    } catch (RuntimeException | Error e) {
      failure.compareAndSet(null, e);
      stops.set(true);
    }
  }
}
