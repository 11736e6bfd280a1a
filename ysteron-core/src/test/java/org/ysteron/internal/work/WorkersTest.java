package org.ysteron.internal.work;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;
import org.ysteron.error.YsteronException;

class WorkersTest {
  @Test
  void allTasksRunAndTheirEndIsWaitedFor() {
    try (Workers workers = new Workers(3)) {
      AtomicInteger done = new AtomicInteger();
      Set<String> threads = ConcurrentHashMap.newKeySet();
      List<Runnable> tasks = new ArrayList<>();
      for (int i = 0; i < 100; i++) {
        tasks.add(
            () -> {
              threads.add(Thread.currentThread().getName());
              done.incrementAndGet();
            });
      }
      workers.runAll(tasks);
      assertThat(done).hasValue(100);
      assertThat(threads).hasSizeLessThanOrEqualTo(3).allMatch(name -> name.startsWith("ysteron-"));
    }
  }

  @Test
  void oneThreadRunsTasksWhereItIsAsked() {
    try (Workers workers = new Workers(1)) {
      List<Thread> seen = new ArrayList<>();
      workers.runAll(
          List.of(() -> seen.add(Thread.currentThread()), () -> seen.add(Thread.currentThread())));
      assertThat(seen).containsOnly(Thread.currentThread());
    }
  }

  @Test
  void aFailureIsThrownAfterAllHaveEnded() {
    try (Workers workers = new Workers(2)) {
      AtomicInteger done = new AtomicInteger();
      CountDownLatch failed = new CountDownLatch(1);
      List<Runnable> tasks =
          List.of(
              () -> {
                failed.countDown();
                throw new DamagedException("broken");
              },
              () -> {
                try {
                  failed.await();
                } catch (InterruptedException e) {
                  throw new IllegalStateException(e);
                }
                done.incrementAndGet();
              });
      assertThatThrownBy(() -> workers.runAll(tasks))
          .isInstanceOf(DamagedException.class)
          .hasMessage("broken");
      assertThat(done).hasValue(1);
    }
  }

  @Test
  void whatAThreadThrowsIsThrownToTheOneWhoAsks() {
    try (Workers workers = new Workers(2)) {
      Future<String> good = workers.submit(() -> "result");
      Future<String> wrong =
          workers.submit(
              () -> {
                throw new java.io.IOException("no disk");
              });
      assertThat(Workers.get(good)).isEqualTo("result");
      assertThatThrownBy(() -> Workers.get(wrong))
          .isInstanceOf(YsteronException.class)
          .hasMessageContaining("no disk");
    }
  }

  @Test
  void anInterruptWhileWaitingIsKept() {
    try (Workers workers = new Workers(1)) {
      CountDownLatch never = new CountDownLatch(1);
      Future<Void> endless =
          workers.submit(
              () -> {
                never.await();
                return null;
              });
      Thread.currentThread().interrupt();
      assertThatThrownBy(() -> Workers.get(endless))
          .isInstanceOf(YsteronException.class)
          .hasMessageContaining("Interrupted");
      assertThat(Thread.interrupted()).isTrue();
      never.countDown();
    }
  }
}
