package org.ysteron.internal.work;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.concurrent.Callable;
import java.util.concurrent.Future;
import java.util.function.Consumer;

/**
 * Work that workers do some tasks ahead of the caller, who takes the results in the order of the
 * tasks. Closing waits for what is under way, so that nobody works on for what was given up. For
 * one thread.
 *
 * @param <T> a result
 */
public final class Ahead<T> implements AutoCloseable {
  private static final int MOST = 8;

  private final Workers workers;
  private final Consumer<T> taker;
  private final Deque<Future<T>> running = new ArrayDeque<>();

  public Ahead(Workers workers, Consumer<T> taker) {
    this.workers = workers;
    this.taker = taker;
  }

  /** Adds a task; takes the oldest result when enough are under way. */
  public void add(Callable<T> work) {
    running.add(workers.submit(work));
    if (running.size() > MOST) {
      taker.accept(Workers.get(running.remove()));
    }
  }

  /** Takes all results that are left. */
  public void finish() {
    while (!running.isEmpty()) {
      taker.accept(Workers.get(running.remove()));
    }
  }

  @Override
  public void close() {
    running.forEach(Workers::awaitEnd);
  }
}
