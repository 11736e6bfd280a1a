package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.YsteronException;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/** A named writer of a simulation, whose every number is to be there exactly once. */
final class SimulatedLog {
  private final Random random;
  private final Predicate<Lake> isOfNow;
  private final Map<Long, Committed> named = new TreeMap<>();
  private final Map<SimulatedActors.Actor, NamedWriter> zombies = new HashMap<>();
  private boolean maySkip;

  /** {@code isOfNow}: whether no copy was put back since a lake was opened. */
  SimulatedLog(Random random, Predicate<Lake> isOfNow) {
    this.random = random;
    this.isOfNow = isOfNow;
  }

  /** A named writer, opened anew now and then; the session before then tries to write. */
  void round(SimulatedActors.Actor actor, Lake lake) {
    try {
      NamedWriter before = zombies.get(actor);
      NamedWriter writer = lake.table("t.n").openWriter("logger");
      for (int i = 0; i < 2; i++) {
        long number = writer.lastApplied() + 1;
        Optional<Committed> committed = write(writer, number);
        committed.ifPresent(c -> named.put(number, c));
        if (random.nextInt(3) == 0) {
          assertThat(write(writer, number)).as("number %d again", number).isEmpty();
        }
      }
      zombies.put(actor, writer);
      if (before != null) {
        try {
          write(before, writer.lastApplied() + 1);
          // What has superseded it may be gone, with the numbers that it wrote.
          assertThat(isOfNow).as("a session that was superseded has written").rejects(lake);
          actor.tell("its earlier session is the last again");
          maySkip = true;
        } catch (ConflictException e) {
          actor.tell("its earlier session was refused");
        }
      }
    } catch (ConflictException e) {
      if (isOfNow.test(lake)) {
        throw e;
      }
      actor.tell("its session is not known any more: " + e.getMessage());
    } catch (UnknownOutcomeException | StoreException | ExpiredException e) {
      actor.tell("cannot log now: " + e.getMessage());
    }
  }

  private static Optional<Committed> write(NamedWriter writer, long number) {
    return writer.append(number, rows -> rows.add((int) number, number)).committed();
  }

  /**
   * Every number is there once, without a gap unless a copy that was put back made one.
   *
   * @param lost commits on lines that were lost
   */
  void check(ObjectStore store, Set<UUID> lost) {
    try (Lake lake = Simulation.openAlone(store)) {
      List<Integer> numbers = new ArrayList<>();
      for (Row row : lake.table("t.n").scan().rows()) {
        numbers.add((Integer) row.get(0));
      }
      assertThat(numbers).as("numbers applied").doesNotHaveDuplicates();
      named.values().removeIf(committed -> lost.contains(committed.commit().commitId()));
      assertThat(numbers).containsAll(named.keySet().stream().map(Long::intValue).toList());
      for (int i = 0; i < numbers.size() && !maySkip; i++) {
        assertThat(numbers).contains(i);
      }
    } catch (YsteronException e) {
      throw new AssertionError(e);
    }
  }
}
