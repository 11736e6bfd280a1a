package org.ysteron.internal.tree;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.concurrent.FutureTask;
import java.util.function.Predicate;
import org.ysteron.internal.work.Workers;

/**
 * Reads those children of a node that pass, one after the other: such as lie behind one another in
 * an object in one go, and with workers ahead of who takes them. For one thread.
 */
final class ChildRuns<V, S> {
  private static final int LONGEST_BYTES = 1 << 20;

  private final PageTree<V, S> tree;
  private final Node<V, S> parent;
  private final int height;
  private final Predicate<S> below;
  private final Pace pace;
  private final Deque<Run<V, S>> runs = new ArrayDeque<>();
  private int next;
  private long skipped;
  private long skippedKeys;

  /**
   * How far a reader reads ahead. Runs get longer as more of them are taken, so that who wants the
   * first keys only has read no more than their page.
   */
  static final class Pace {
    private static final int LONGEST_RUN = 64;

    private Workers workers;
    private int pages = 1;

    void setWorkers(Workers ahead) {
      workers = ahead;
    }

    private boolean isAhead() {
      return workers != null && workers.threads() > 1;
    }

    private int runsAhead() {
      return isAhead() && pages > 1 ? 2 * workers.threads() : 1;
    }

    private int nextRun() {
      int length = pages;
      pages = Math.min(LONGEST_RUN, 2 * pages);
      return length;
    }
  }

  /** Children that are read together. */
  private record Run<V, S>(FutureTask<Deque<Child<V, S>>> reading) {}

  /** A child, or why it could not be read. */
  private record Child<V, S>(Node<V, S> node, RuntimeException failure) {}

  /**
   * The children of a node.
   *
   * @param height how high above the leaves they are
   * @param first the first one that is looked at
   * @param below whether one of this summary passes
   */
  ChildRuns(
      PageTree<V, S> tree,
      Node<V, S> parent,
      int height,
      int first,
      Predicate<S> below,
      Pace pace) {
    this.tree = tree;
    this.parent = parent;
    this.height = height;
    this.next = first;
    this.below = below;
    this.pace = pace;
  }

  /** How many children did not pass so far. */
  long skipped() {
    return skipped;
  }

  /** How many keys are below those. */
  long skippedKeys() {
    return skippedKeys;
  }

  /** The next child that passes; null behind the last one. */
  Node<V, S> next() {
    while (runs.size() < pace.runsAhead() && passing() < parent.size) {
      Run<V, S> run = run(pace.nextRun());
      runs.add(run);
      if (pace.isAhead() && runs.size() > 1) {
        pace.workers.begin(run.reading);
      }
    }
    if (runs.isEmpty()) {
      return null;
    }
    FutureTask<Deque<Child<V, S>>> reading = runs.peek().reading;
    reading.run(); // unless a worker has begun with it
    Deque<Child<V, S>> children = Workers.get(reading);
    Child<V, S> child = children.remove();
    if (children.isEmpty()) {
      runs.remove();
    }
    if (child.failure != null) {
      throw child.failure;
    }
    return child.node;
  }

  /** The first child that passes of those that are in no run yet. */
  private int passing() {
    while (next < parent.size && !below.test(parent.summaries.get(next))) {
      skipped++;
      skippedKeys += parent.counts[next++];
    }
    return next;
  }

  private Run<V, S> run(int most) {
    List<Integer> children = new ArrayList<>();
    long bytes = 0;
    PageRef last = null;
    while (children.size() < most && passing() < parent.size) {
      PageRef ref = parent.children[next];
      bytes += ref.length();
      if (last != null && (bytes > LONGEST_BYTES || !last.isJustBefore(ref))) {
        break;
      }
      children.add(next++);
      last = ref;
    }
    return new Run<>(new FutureTask<>(() -> read(children)));
  }

  private Deque<Child<V, S>> read(List<Integer> children) {
    List<PageRef> refs = children.stream().map(i -> parent.children[i]).toList();
    List<byte[]> pages = tree.pages().readRun(refs);
    Deque<Child<V, S>> read = new ArrayDeque<>();
    for (int i = 0; i < refs.size(); i++) {
      long count = parent.counts[children.get(i)];
      try {
        read.add(
            new Child<>(tree.node(refs.get(i), pages.get(i), height, count, height > 0), null));
      } catch (RuntimeException e) {
        read.add(new Child<>(null, e));
      }
    }
    return read;
  }
}
