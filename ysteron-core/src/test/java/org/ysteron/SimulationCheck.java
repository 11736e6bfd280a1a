package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.data.Row;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Literal;
import org.ysteron.option.Check;
import org.ysteron.option.Isolation;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableInfo;

/** Replays the ledger of a simulation on the model and compares everything. */
final class SimulationCheck {
  private static final Set<String> NOT_MODELLED = Set.of("t.n", SimulatedPosition.TABLE);

  private final KeepingStore store;
  private final Map<String, Simulation.Attempt> attempts;
  private final List<Simulation.Seen> seen;
  private final List<SimulatedWork.State> states = new ArrayList<>();
  private final Map<Long, List<Integer>> inserted = new TreeMap<>();
  private final SimulatedWork.Ids ids = new SimulatedWork.Ids();
  private int committed;

  SimulationCheck(
      KeepingStore store, Map<String, Simulation.Attempt> attempts, List<Simulation.Seen> seen) {
    this.store = store;
    this.attempts = attempts;
    this.seen = seen;
  }

  /** How many transactions were committed. */
  int committed() {
    return committed;
  }

  void run() {
    Map<UUID, TableView> known = new HashMap<>();
    long newest;
    try (Lake lake = Simulation.openAlone(store)) {
      newest = lake.now().commit().entry();
    }
    // Each state as it was when it was the newest, whatever was let go since.
    for (long entry = 0; entry <= newest; entry++) {
      try (Lake lake = Simulation.openAlone(store.upTo(entry))) {
        LakeView view = lake.now();
        assertThat(view.commit().entry()).isEqualTo(entry);
        SimulatedWork.State state = next(view.commit(), view);
        Optional<SimulatedErasure.Meant> erased =
            SimulatedErasure.doneBy(store.upTo(entry), view.commit().note(), entry);
        if (erased.isPresent()) {
          erase(erased.get(), entry, state);
        }
        states.add(state);
        remember(view, state);
        compare(view, state, known, erased.isPresent());
        SimulatedPosition.check(lake, !this.erased.isEmpty());
      }
    }
    attempts.values().forEach(this::isAsAcknowledged);
    for (Simulation.Seen read : seen) {
      Map<Integer, Long> expected = values(states.get((int) read.entry()), read.table());
      assertThat(read.rows())
          .as("%s as read at entry %d", read.table(), read.entry())
          .isEqualTo(expected);
    }
  }

  List<SimulatedWork.State> states() {
    return states;
  }

  /** Rows that an entry has erased. */
  private record Erased(SimulatedErasure.Meant meant, long entry) {}

  private final List<Erased> erased = new ArrayList<>();

  /** Takes rows out of the newest state, and of what may be made the newest again. */
  private void erase(SimulatedErasure.Meant meant, long entry, SimulatedWork.State state) {
    erased.add(new Erased(meant, entry));
    List<Map<Integer, SimulatedWork.Held>> all = new ArrayList<>();
    all.add(state.rows(meant.table()));
    all.addAll(versions.getOrDefault(meant.table(), Map.of()).values());
    for (Map<Integer, SimulatedWork.Held> rows : all) {
      rows.entrySet().removeIf(row -> meant.isOf(row.getKey(), row.getValue().v()));
    }
  }

  /** How many erasures took rows out of versions. */
  int erasures() {
    return erased.size();
  }

  /** What is kept is what it was. */
  void isAsItWas(String table, TableView view, long entry) {
    Map<Integer, Long> rows = new TreeMap<>();
    for (Row row : view.scan().rows()) {
      rows.put((Integer) row.get("k"), (Long) row.get("v"));
    }
    assertThat(rows)
        .as("%s, version %d, of entry %d, as it is kept", table, view.version(), entry)
        .isEqualTo(left(states.get((int) entry), table, entry));
  }

  /** What was there at an entry, and was not erased since. */
  private Map<Integer, Long> left(SimulatedWork.State state, String table, long entry) {
    Map<Integer, Long> values = values(state, table);
    for (Erased later : erased) {
      if (later.entry > entry && later.meant.table().equals(table)) {
        values.entrySet().removeIf(row -> later.meant.isOf(row.getKey(), row.getValue()));
      }
    }
    return values;
  }

  private final Map<String, Map<Long, NavigableMap<Integer, SimulatedWork.Held>>> versions =
      new HashMap<>();

  /** What the tables of the model are at which versions. */
  private void remember(LakeView view, SimulatedWork.State state) {
    for (String name : List.of("t.a", "t.b")) {
      if (state.tables.containsKey(name)) {
        versions
            .computeIfAbsent(name, n -> new HashMap<>())
            .putIfAbsent(view.table(name).version(), new TreeMap<>(state.rows(name)));
      }
    }
  }

  private static Map<Integer, Long> values(SimulatedWork.State state, String table) {
    Map<Integer, Long> values = new TreeMap<>();
    state.rows(table).forEach((k, held) -> values.put(k, held.v()));
    return values;
  }

  private final Map<String, Long> entryOf = new HashMap<>();

  /** What the checks of the tables say keys are below. */
  private static Map<String, Integer> bounds(LakeView view) {
    Map<String, Integer> bounds = new TreeMap<>();
    for (TableInfo listing : view.tables()) {
      for (Check check : view.table(listing.name()).page().form().checks()) {
        int bound =
            ((Number) ((Literal) ((Condition.Compare) check.condition()).right()).value())
                .intValue();
        bounds.merge(listing.name(), bound, Math::min);
      }
    }
    return bounds;
  }

  private static Map<String, Map<Integer, Long>> actual(LakeView view) {
    Map<String, Map<Integer, Long>> actual = new TreeMap<>();
    for (String name : List.of("t.a", "t.b")) {
      Map<Integer, Long> rows = actual.computeIfAbsent(name, n -> new TreeMap<>());
      view.table(name)
          .scan()
          .rows()
          .forEach(row -> rows.put((Integer) row.get("k"), (Long) row.get("v")));
    }
    return actual;
  }

  private SimulatedWork.State next(CommitStamp commit, LakeView view) {
    int entry = (int) commit.entry();
    SimulatedWork.State state =
        entry == 0 ? new SimulatedWork.State() : states.get(entry - 1).copy();
    state.versions = versions;
    state.bounds.putAll(bounds(view));
    Simulation.Attempt attempt = attempts.get(commit.note());
    if (attempt == null) {
      List<String> made =
          List.of("t.a", "t.b", "t.n", SimulatedKeys.TABLE, SimulatedPosition.TABLE);
      if (entry >= 1 && entry <= made.size()) {
        state.tables.put(made.get(entry - 1), new TreeMap<>());
      }
      return state;
    }
    if (attempt.alone) {
      state.actual = actual(view);
      state.past = states.subList((int) attempt.start, entry);
    }
    committed++;
    assertThat(entryOf.put(attempt.id, commit.entry()))
        .as("%s is there twice", attempt.id)
        .isNull();
    if (attempt.isolation == Isolation.SERIALIZABLE) {
      assertThat(replay(attempt, state))
          .as("what %s saw, at entry %d", attempt.id, entry)
          .isEqualTo(attempt.seen);
      return state;
    }
    SimulatedWork.State atStart = states.get((int) attempt.start);
    SimulatedWork.State after = atStart.copy();
    assertThat(replay(attempt, after))
        .as("what %s saw, from entry %d", attempt.id, attempt.start)
        .isEqualTo(attempt.seen);
    carry(attempt, atStart, after, state);
    SimulatedKeys.carry(atStart.shared, after.shared, state.shared);
    return state;
  }

  private List<String> replay(Simulation.Attempt attempt, SimulatedWork.State state) {
    List<String> words = new ArrayList<>();
    attempt.ops.forEach(op -> words.add(op.apply(state, ids)));
    // Of an attempt that was killed only what it saw before is known.
    return attempt.seen.size() < words.size() ? words.subList(0, attempt.seen.size()) : words;
  }

  /** What a transaction changed on the state it started from, on the state it was committed to. */
  private static void carry(
      Simulation.Attempt attempt,
      SimulatedWork.State before,
      SimulatedWork.State after,
      SimulatedWork.State state) {
    after.tables.forEach(
        (table, rows) -> {
          Map<Integer, SimulatedWork.Held> old = before.rows(table);
          Map<Integer, SimulatedWork.Held> now = state.rows(table);
          if (old == null || now == null) {
            return;
          }
          for (Integer k : union(old, rows)) {
            if (java.util.Objects.equals(old.get(k), rows.get(k))) {
              continue;
            }
            assertThat(now.get(k))
                .as(
                    "%s changed row %d of %s, and so did another since its start",
                    attempt.id, k, table)
                .isEqualTo(old.get(k));
            if (rows.containsKey(k)) {
              now.put(k, rows.get(k));
            } else {
              now.remove(k);
            }
          }
        });
  }

  private static Set<Integer> union(Map<Integer, ?> a, Map<Integer, ?> b) {
    Set<Integer> keys = new java.util.TreeSet<>(a.keySet());
    keys.addAll(b.keySet());
    return keys;
  }

  private void compare(
      LakeView view, SimulatedWork.State state, Map<UUID, TableView> known, boolean isErased) {
    assertThat(view.tables())
        .extracting(listing -> listing.name())
        .containsExactlyElementsOf(state.tables.keySet());
    view.tables()
        .forEach(
            listing -> {
              TableView table = view.table(listing.name());
              TableView before = known.put(listing.id(), table);
              boolean same = before != null && before.version() == table.version();
              if ((same && !isErased) || NOT_MODELLED.contains(listing.name())) {
                return;
              }
              if (listing.name().equals(SimulatedKeys.TABLE)) {
                SimulatedKeys.check(table, state.shared);
                return;
              }
              Map<Integer, Long> rows = new TreeMap<>();
              for (Row row : table.scan().rows()) {
                SimulatedEvolution.check(row);
                assertThat(rows.put((Integer) row.get("k"), (Long) row.get("v")))
                    .as("%s twice", row)
                    .isNull();
              }
              table
                  .page()
                  .form()
                  .checks()
                  .forEach(
                      check ->
                          assertThat(table.scan().where(check.condition().not()).count())
                              .as("rows for which %s is false", check)
                              .isZero());
              long entry = view.commit().entry();
              assertThat(rows)
                  .as("%s at entry %d", listing.name(), entry)
                  .isEqualTo(values(state, listing.name()));
              assertThat(listing.totals().rows()).isEqualTo(rows.size());
              if (listing.name().equals("t.a") && entry > 1 && !same) {
                inserted.put(table.version(), insertedKeys(states.get((int) entry - 1), state));
              }
            });
  }

  private static List<Integer> insertedKeys(SimulatedWork.State before, SimulatedWork.State now) {
    List<Long> old = before.rows("t.a").values().stream().map(SimulatedWork.Held::id).toList();
    List<Integer> keys = new ArrayList<>();
    now.rows("t.a")
        .forEach(
            (k, held) -> {
              if (!old.contains(held.id())) {
                keys.add(k);
              }
            });
    return keys;
  }

  private void isAsAcknowledged(Simulation.Attempt attempt) {
    Long there = entryOf.get(attempt.id);
    if (attempt.lost) {
      assertThat(there).as("%s was on a line that is lost", attempt.id).isNull();
      return;
    }
    if (attempt.entry.isPresent() && !(attempt.perhapsLost && there == null)) {
      assertThat(there).as("%s was acknowledged", attempt.id).isEqualTo(attempt.entry.get());
    }
    if (attempt.failed) {
      assertThat(there).as("%s has failed", attempt.id).isNull();
    }
  }

  /** Compares what a follower was given with the rows that each version inserted. */
  void follow(Map<Long, List<Integer>> followed) {
    followed.forEach(
        (version, keys) -> {
          List<Integer> brought = inserted.get(version);
          boolean mayLack = erased.stream().anyMatch(e -> e.meant.table().equals("t.a"));
          if (keys != null && mayLack) {
            assertThat(brought).as("rows that version %d brought", version).containsAll(keys);
          } else if (keys != null) {
            assertThat(keys).as("rows that version %d brought", version).isEqualTo(brought);
          }
        });
  }
}
