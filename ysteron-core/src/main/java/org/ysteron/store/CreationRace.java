package org.ysteron.store;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.BrokenBarrierException;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;

/**
 * Tests, before a lake is created, that create-if-absent is atomic in a store: several threads
 * create one name at once, repeatedly. Each time exactly one must succeed, and the object must be
 * its own. A store that ignores the condition fails at once.
 */
public final class CreationRace {
  private static final int RACERS = 8;
  private static final int ROUNDS = 5;

  private CreationRace() {}

  /**
   * Runs the test below {@code probe/} and cleans up.
   *
   * @throws StoreException when two writers succeeded, or none
   */
  public static void run(ObjectStore store) {
    String prefix = "probe/" + UUID.randomUUID();
    ExecutorService threads = Executors.newFixedThreadPool(RACERS);
    try {
      for (int round = 0; round < ROUNDS; round++) {
        race(store, prefix + "-" + round, threads);
      }
    } finally {
      threads.shutdownNow();
    }
  }

  /**
   * One round. A racer whose first reply is lost may be told that the object is there, its client
   * having asked again: so who won is told by the content.
   */
  private static void race(ObjectStore store, String name, ExecutorService threads) {
    CyclicBarrier start = new CyclicBarrier(RACERS);
    List<Future<Boolean>> racers = new ArrayList<>();
    for (int racer = 0; racer < RACERS; racer++) {
      byte[] content = Integer.toString(racer).getBytes(StandardCharsets.UTF_8);
      racers.add(
          threads.submit(
              () -> {
                await(start);
                return store.createIfAbsent(name, content);
              }));
    }
    Set<String> winners = new TreeSet<>();
    for (int racer = 0; racer < RACERS; racer++) {
      if (result(racers.get(racer))) {
        winners.add(Integer.toString(racer));
      }
    }
    winners.add(new String(store.read(name), StandardCharsets.UTF_8));
    store.delete(name);
    if (winners.size() != 1) {
      throw new StoreException(
          "The store at %s does not create objects atomically: of %d concurrent writers of one object, %d succeeded. A lake there would lose commits, so it was not created."
              .formatted(store.location(), RACERS, winners.size()));
    }
  }

  private static void await(CyclicBarrier barrier) {
    try {
      barrier.await();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new StoreException("Interrupted while the store was tested.", e);
    } catch (BrokenBarrierException e) {
      throw new StoreException("The test of the store was interrupted.", e);
    }
  }

  private static boolean result(Future<Boolean> racer) {
    try {
      return racer.get();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new StoreException("Interrupted while the store was tested.", e);
    } catch (ExecutionException e) {
      if (e.getCause() instanceof StoreException failure) {
        throw failure;
      }
      throw new StoreException("The store failed while it was tested.", e);
    }
  }
}
