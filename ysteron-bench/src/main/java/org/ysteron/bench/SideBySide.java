package org.ysteron.bench;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.IntConsumer;

/** Threads that do the same at the same time. */
final class SideBySide {
  private SideBySide() {}

  /** Runs some work in so many threads, each with its number; the seconds until all have ended. */
  static double seconds(int count, IntConsumer work) {
    List<Thread> threads = new ArrayList<>();
    List<Throwable> failures = new CopyOnWriteArrayList<>();
    long start = System.nanoTime();
    for (int t = 0; t < count; t++) {
      int number = t;
      Thread thread = new Thread(() -> work.accept(number));
      thread.setUncaughtExceptionHandler((failed, e) -> failures.add(e));
      thread.start();
      threads.add(thread);
    }
    for (Thread thread : threads) {
      try {
        thread.join();
      } catch (InterruptedException e) {
        throw new IllegalStateException(e);
      }
    }
    if (!failures.isEmpty()) {
      throw new IllegalStateException(failures.get(0));
    }
    return (System.nanoTime() - start) / 1e9;
  }
}
