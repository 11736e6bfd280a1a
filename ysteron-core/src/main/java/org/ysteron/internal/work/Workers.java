package org.ysteron.internal.work;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.FutureTask;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicInteger;
import org.ysteron.error.EndedException;
import org.ysteron.error.YsteronException;

/**
 * A bounded number of threads that a lake's reading and writing share; with none, the caller does
 * the work itself. Thread-safe.
 */
public final class Workers implements AutoCloseable {
  private static final AtomicInteger NEXT = new AtomicInteger();

  private final Means means;
  private final int threads;
  private final ExecutorService executor;

  /** So many threads, with the standard means. */
  public Workers(int threads) {
    this(Means.of(threads));
  }

  public Workers(Means means) {
    int threads = means.threads();
    this.means = means;
    this.threads = Math.max(1, threads);
    this.executor = threads == 0 ? null : Executors.newFixedThreadPool(threads, Workers::thread);
  }

  public int threads() {
    return threads;
  }

  /** What calls may use beside threads. */
  public Means means() {
    return means;
  }

  public <T> Future<T> submit(java.util.concurrent.Callable<T> work) {
    if (executor == null) {
      FutureTask<T> task = new FutureTask<>(work);
      task.run();
      return task;
    }
    try {
      return executor.submit(work);
    } catch (RejectedExecutionException e) {
      throw new EndedException(
          EndedException.Kind.LAKE,
          null,
          "The lake was closed while it was used. Open it again.",
          e);
    }
  }

  /** Has a worker do something that tells its end by itself. */
  public void begin(Runnable work) {
    Future<?> unused = submit(Executors.callable(work));
  }

  /** Runs all, this thread helping when there is one worker only, and waits for the end of all. */
  public void runAll(List<Runnable> tasks) {
    if (threads == 1 || tasks.size() == 1) {
      tasks.forEach(Runnable::run);
      return;
    }
    List<Future<?>> running = new ArrayList<>();
    tasks.forEach(task -> running.add(submit(Executors.callable(task))));
    RuntimeException failure = null;
    for (Future<?> future : running) {
      awaitEnd(future); // even when interrupted, or they would work on what is given up
      try {
        get(future);
      } catch (RuntimeException e) {
        failure = failure == null ? e : failure;
      }
    }
    if (failure != null) {
      throw failure;
    }
  }

  /** Runs each in a thread of its own, and waits until these threads have ended. */
  public static void runEach(List<Runnable> tasks) {
    List<FutureTask<?>> running = new ArrayList<>();
    tasks.forEach(task -> running.add(new FutureTask<>(Executors.callable(task))));
    List<Thread> threads = running.stream().map(Workers::thread).toList();
    threads.forEach(Thread::start);
    threads.forEach(Workers::awaitEnd);
    running.forEach(Workers::get);
  }

  private static Thread thread(Runnable work) {
    Thread thread = new Thread(work, "ysteron-" + NEXT.incrementAndGet());
    thread.setDaemon(true);
    return thread;
  }

  private static void awaitEnd(Thread thread) {
    boolean interrupted = false;
    while (thread.isAlive()) {
      try {
        thread.join();
      } catch (InterruptedException e) {
        interrupted = true;
      }
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
  }

  /** The result of some work; its own exception when it failed. */
  public static <T> T get(Future<T> future) {
    try {
      return future.get();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new YsteronException("Interrupted while waiting for another thread.", e);
    } catch (ExecutionException e) {
      if (e.getCause() instanceof RuntimeException cause) {
        throw cause;
      }
      if (e.getCause() instanceof Error cause) {
        throw cause;
      }
      throw new YsteronException("A thread failed: " + e.getCause(), e);
    }
  }

  /** Waits for the end of some work, interrupted or not; an interrupt is kept for later. */
  public static void awaitEnd(Future<?> future) {
    boolean interrupted = false;
    while (!future.isDone()) {
      try {
        future.get();
      } catch (InterruptedException e) {
        interrupted = true;
      } catch (ExecutionException | CancellationException e) {
        break; // it has ended
      }
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
  }

  @Override
  public void close() {
    if (executor != null) {
      executor.shutdownNow();
    }
  }
}
