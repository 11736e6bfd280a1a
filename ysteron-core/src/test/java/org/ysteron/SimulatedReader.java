package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.RewoundException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * Reads in a simulation: what is newest, a version that was taken long ago, and what a follower
 * brings that may have been made long ago.
 */
final class SimulatedReader {
  private final Random random;
  private final ObjectStore store;
  private final List<Simulation.Seen> seen;
  private final Map<Long, List<Integer>> followed;
  private final Predicate<Lake> isOfNow;
  private final boolean erases;
  private Lake lake;
  private TableView pinned;
  private Map<Integer, Long> pinnedRows;
  private Follower follower;

  /**
   * Reads nothing yet.
   *
   * @param seen takes what was read
   * @param followed takes the keys that each version of t.a brought; null where it was rewound
   * @param isOfNow whether no copy was put back since a lake was opened
   * @param erases whether rows may go from versions
   */
  SimulatedReader(
      Random random,
      ObjectStore store,
      List<Simulation.Seen> seen,
      Map<Long, List<Integer>> followed,
      Predicate<Lake> isOfNow,
      boolean erases) {
    this.random = random;
    this.store = store;
    this.seen = seen;
    this.followed = followed;
    this.isOfNow = isOfNow;
    this.erases = erases;
  }

  void round(SimulatedActors.Actor actor, Lake now) {
    if (lake != now) {
      lake = now;
      pinned = null;
      follower = null;
    }
    long[] from = {0};
    try {
      readNewest(from);
      readPinned(actor);
      follow();
    } catch (RewoundException e) {
      assertThat(e.target()).isLessThan(e.version());
      if (isOfNow.test(lake)) {
        followed.put(e.version(), null); // it goes on behind it
      }
    } catch (ExpiredException e) {
      actor.tell("missed something: " + e.getMessage());
      follower = null;
      Simulation.checkMayMiss(store, e, from[0]);
    } catch (StoreException e) {
      actor.tell("cannot read now: " + e.getMessage());
    }
  }

  private static Map<Integer, Long> rows(TableView view) {
    Map<Integer, Long> rows = new TreeMap<>();
    for (Row row : view.scan().rows()) {
      rows.put((Integer) row.get("k"), (Long) row.get("v"));
      SimulatedEvolution.check(row);
    }
    return rows;
  }

  private void readNewest(long[] from) {
    LakeView view = lake.now();
    from[0] = view.commit().entry();
    for (String name : List.of("t.a", "t.b")) {
      Map<Integer, Long> rows = rows(view.table(name));
      if (isOfNow.test(lake)) {
        seen.add(new Simulation.Seen(view.commit().entry(), name, rows));
      }
    }
  }

  /** A version that is kept can be read by whoever has it, whatever was copied and swept since. */
  private void readPinned(SimulatedActors.Actor actor) {
    if (pinned == null) {
      TableView now = lake.table("t.a").now();
      pinnedRows = rows(now);
      pinned = now;
      return;
    }
    try {
      Map<Integer, Long> rows = rows(pinned);
      if (erases) {
        assertThat(pinnedRows).containsAllEntriesOf(rows);
      } else {
        assertThat(rows).as("version %d, read again", pinned.version()).isEqualTo(pinnedRows);
      }
      if (random.nextInt(4) == 0) {
        pinned = null;
      }
    } catch (ExpiredException e) {
      actor.tell("has version %d no more: %s".formatted(pinned.version(), e.getMessage()));
      if (!erases && isOfNow.test(lake)) {
        assertThat(isKept(pinned.version())).as(e.getMessage()).isFalse();
      }
      pinned = null;
    }
  }

  private boolean isKept(long version) {
    try (Lake alone = Simulation.openAlone(store)) {
      return alone.table("t.a").history(Integer.MAX_VALUE).stream()
          .anyMatch(kept -> kept.version() == version);
    }
  }

  private void follow() {
    if (follower == null || random.nextInt(3) == 0) {
      long done = followed.keySet().stream().max(Long::compare).orElse(0L);
      follower = lake.table("t.a").follow(done);
    }
    Optional<Follower.Step> step = follower.poll();
    while (step.isPresent()) {
      List<Integer> keys = new ArrayList<>();
      for (Row row : step.get().rows()) {
        keys.add((Integer) row.get("k"));
      }
      if (isOfNow.test(lake)) {
        followed.put(step.get().version(), keys.stream().sorted().toList());
      }
      step = follower.poll();
    }
  }
}
