package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.ysteron.data.Row;
import org.ysteron.error.CancelledException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;
import org.ysteron.task.StagedChange;

/**
 * Several writers and readers on one lake whose store fails, delays and loses replies, and some of
 * which are killed. All of it follows from a seed. Afterwards the ledger is replayed on a model:
 * every acknowledged commit must be there once, every version must be what the model is, and every
 * transaction must have seen what it would have seen alone (or, under snapshot isolation, at its
 * start).
 */
final class Simulation {
  private final Settings settings;
  private final Random random;
  private final KeepingStore store = new KeepingStore();
  private final SimulatedActors actors;
  private final Map<String, Attempt> attempts = new TreeMap<>();
  private final List<Seen> seen = new ArrayList<>();
  private final Map<Lake, SimulatedStore> stores = new HashMap<>();
  private final Map<Long, List<Integer>> followed = new TreeMap<>();
  private final Map<Lake, Integer> lines = new HashMap<>();
  private final Set<UUID> lost = new HashSet<>();
  private int lastAttempt;
  private int fresh = 1000;

  /**
   * How much of everything.
   *
   * @param writers actors that change rows
   * @param rounds what each does
   * @param troubleIn1000 how often a store call goes wrong
   */
  record Settings(long seed, int writers, int rounds, int troubleIn1000) {}

  /** A transaction, or a statement alone. */
  static final class Attempt {
    final String id;
    final List<SimulatedWork.Op> ops = new ArrayList<>();
    final List<String> seen = new ArrayList<>();
    final Isolation isolation;
    boolean alone;
    long start;
    Optional<Long> entry = Optional.empty();
    boolean failed;

    /** Whether a call of it has no unfinished erasure. */
    boolean running;

    /** It was committed on a line that was lost when a copy was put back. */
    boolean lost;

    /** The same, but its commit was not over yet: it may have been made again since. */
    boolean perhapsLost;

    Attempt(String id, Isolation isolation) {
      this.id = id;
      this.isolation = isolation;
    }

    private void lose() {
      lost |= !running;
      perhapsLost |= running;
    }
  }

  /** What a reader saw of a table at an entry. */
  record Seen(long entry, String table, Map<Integer, Long> rows) {}

  Simulation(Settings settings) {
    this.settings = settings;
    this.random = new Random(settings.seed * 31 + 7);
    this.actors = new SimulatedActors(random, settings.seed % 2 == 0);
  }

  List<String> trace() {
    return actors.trace();
  }

  /** Runs and checks. */
  @SuppressWarnings("try") // it is there while it is open
  SimulationCheck run() {
    try (SmallLimits limits = new SmallLimits(settings.seed)) {
      return checked();
    }
  }

  private SimulationCheck checked() {
    try (Lake lake =
        Lake.create(
            store,
            LakeOptions.DEFAULTS
                .clock(Clock.fixed(SimulatedActors.START, ZoneOffset.UTC))
                .threads(1))) {
      TableSettings properties =
          TableSettings.DEFAULTS
              .with(TableSettings.RANGED_COLUMNS, random.nextBoolean() ? 2 : 0)
              .with(TableSettings.FILE_BYTES, random.nextBoolean() ? 4 << 10 : 1 << 20)
              .with(TableSettings.DRIFT, Drift.GROW.word());
      lake.createTable("t.a", SimulatedWork.SCHEMA, properties);
      lake.createTable("t.b", SimulatedWork.SCHEMA, properties);
      lake.createTable("t.n", SimulatedWork.SCHEMA);
      lake.createTable(
          SimulatedKeys.TABLE,
          SimulatedWork.SCHEMA,
          TableSettings.DEFAULTS.with(TableSettings.KEY_TEST, SimulatedKeys.anyTest(random)));
      SimulatedPosition.make(lake);
    }
    for (int w = 0; w < settings.writers; w++) {
      actors.add("writer " + w, actor -> lives(actor, this::write));
    }
    SimulatedEvolution evolution = new SimulatedEvolution(random);
    actors.add("evolver", actor -> lives(actor, evolution::round));
    SimulatedUpkeep upkeep = new SimulatedUpkeep(random);
    actors.add("packer", actor -> lives(actor, upkeep::round));
    SimulatedExpiry expiry = new SimulatedExpiry(random, this::isOfNow);
    if (settings.seed % 4 != 0) {
      actors.add("keeper 1", actor -> lives(actor, expiry::round));
      actors.add("keeper 2", actor -> lives(actor, expiry::round));
    }
    boolean erases = settings.seed % 3 == 1;
    SimulatedReader reader =
        new SimulatedReader(random, store, seen, followed, this::isOfNow, erases);
    actors.add("reader", actor -> lives(actor, reader::round));
    SimulatedPosition position = new SimulatedPosition(random, erases);
    actors.add("copier 1", actor -> lives(actor, position::round));
    actors.add("copier 2", actor -> lives(actor, position::round));
    SimulatedLog log = new SimulatedLog(random, this::isOfNow);
    actors.add("logger", actor -> lives(actor, log::round));
    SimulatedErasure erasure = new SimulatedErasure(random);
    if (erases) {
      actors.add("eraser", actor -> lives(actor, erasure::round));
    }
    if (settings.seed % 5 == 2) {
      actors.add("operator", actor -> putBack(actor, expiry, erasure));
    }
    actors.run();
    stores.keySet().forEach(Lake::close);
    erasure.finish(store);
    SimulationCheck check = new SimulationCheck(store, attempts, seen);
    check.run();
    check.follow(followed);
    log.check(store, lost);
    expiry.check(store, check.states(), check::isAsItWas);
    SimulatedExpiry.checkNothingIsLeft(store);
    return check;
  }

  private interface Rounds {
    void round(SimulatedActors.Actor actor, Lake lake);
  }

  /** Does its rounds, starting a process anew when it was killed. */
  private void lives(SimulatedActors.Actor actor, Rounds rounds) {
    int done = 0;
    while (done < settings.rounds) {
      SimulatedStore view =
          new SimulatedStore(store, actors, actor, random, settings.troubleIn1000);
      try {
        Lake lake = open(view, actor); // closed at the end: an earlier session still writes by it
        while (done < settings.rounds) {
          done++;
          rounds.round(actor, lake);
        }
      } catch (SimulatedStore.Killed e) {
        actor.tell("starts again");
      } catch (WrongLakeException | DamagedException e) {
        // Who is late puts an entry behind the end of what was put back, and takes it away again.
        if (store.line() == 0) {
          throw e;
        }
        done++;
        actor.tell("opens it again: " + e.getMessage());
      } catch (StoreException e) {
        done++; // the lake could not be opened
      } catch (IllegalArgumentException e) {
        if (!view.isKilled()) {
          throw e;
        }
        actor.tell("starts again"); // it was killed once more while it was dying
      }
    }
  }

  private Lake open(SimulatedStore view, SimulatedActors.Actor actor) {
    int line = store.line();
    Clock clock = actor.clock();
    Lake lake =
        lake(
            view,
            new LakeCore.Settings(
                LakeOptions.DEFAULTS.clock(clock).threads(0), micros -> actor.step()));
    stores.put(lake, view);
    lines.put(lake, line);
    return lake;
  }

  private static Lake lake(ObjectStore store, LakeCore.Settings how) {
    return new Lake(
        LakeCore.open(store, how),
        new CommitNote("sim", "sim", "", "", Map.of(), Optional.empty()));
  }

  /** A lake without threads of its own. */
  static Lake openAlone(ObjectStore store) {
    return Lake.open(store, LakeOptions.DEFAULTS.threads(0));
  }

  /** Whether no copy was put back since a lake was opened. */
  private boolean isOfNow(Lake lake) {
    return lines.get(lake) == store.line();
  }

  /** Puts the lake back from a copy, while the others are at work. */
  private void putBack(
      SimulatedActors.Actor actor, SimulatedExpiry expiry, SimulatedErasure erasure) {
    pause(actor, random.nextInt(250));
    KeepingStore.Copy copy = store.copy();
    actor.tell("copied the lake");
    pause(actor, random.nextInt(120));
    while (expiry.isSweeping() || erasure.isErasing()) {
      actor.step();
    }
    long copied;
    long version;
    try (Lake lake = openAlone(copy.now())) {
      copied = lake.now().commit().entry();
      version = lake.table("t.a").now().version();
    }
    for (CommitStamp commit : commits()) {
      if (commit.entry() > copied) {
        lost.add(commit.commitId());
        Optional.ofNullable(attempts.get(commit.note())).ifPresent(Attempt::lose);
      }
    }
    store.putBack(copy);
    actors.forgetLate();
    seen.removeIf(read -> read.entry() > copied);
    followed.keySet().removeIf(v -> v > version);
    expiry.forget();
    try (Lake lake =
        lake(
            store,
            new LakeCore.Settings(
                LakeOptions.DEFAULTS.clock(actor.clock()).threads(0), micros -> {}))) {
      lake.confirmRestore();
    }
    actor.tell("put the lake back to entry " + copied);
  }

  private static void pause(SimulatedActors.Actor actor, int steps) {
    for (int i = 0; i < steps; i++) {
      actor.step();
    }
  }

  private List<CommitStamp> commits() {
    long newest;
    try (Lake lake = openAlone(store)) {
      newest = lake.now().commit().entry();
    }
    try (Lake lake = openAlone(store.upTo(newest))) {
      return lake.commits(Integer.MAX_VALUE);
    }
  }

  private void write(SimulatedActors.Actor actor, Lake lake) {
    boolean alone = random.nextInt(3) == 0;
    if (!alone && random.nextInt(3) == 0) {
      interleave(actor, lake);
      return;
    }
    Attempt attempt = attempt(actor, alone);
    end(
        actor,
        attempt,
        () ->
            alone
                ? alone(lake, attempt)
                : new Together(perhapsCancelled(lake), attempt).toItsEnd());
  }

  private Attempt attempt(SimulatedActors.Actor actor, boolean alone) {
    Isolation isolation =
        alone || random.nextInt(3) > 0 ? Isolation.SERIALIZABLE : Isolation.SNAPSHOT;
    Attempt attempt = new Attempt("tx-" + ++lastAttempt, isolation);
    attempt.alone = alone;
    attempts.put(attempt.id, attempt);
    for (int i = alone ? 0 : random.nextInt(3); i >= 0; i--) {
      SimulatedWork.Op op = SimulatedWork.random(random, fresh);
      fresh += 10;
      if (!alone || op.isStatement()) {
        attempt.ops.add(op);
      }
    }
    actor.tell(attempt.id + " " + isolation + " " + attempt.ops);
    return attempt;
  }

  /** Some transactions of one lake object, of which now one and now another goes on. */
  private void interleave(SimulatedActors.Actor actor, Lake lake) {
    List<Together> open = new ArrayList<>();
    try {
      for (int i = 2 + random.nextInt(2); i > 0; i--) {
        Attempt attempt = attempt(actor, false);
        end(
            actor,
            attempt,
            () -> {
              open.add(new Together(perhapsCancelled(lake), attempt));
              return Optional.empty();
            });
      }
      while (!open.isEmpty()) {
        Together next = open.get(random.nextInt(open.size()));
        boolean last = next.isDone();
        end(actor, next.attempt, last ? next::commit : next::step);
        if (last || next.attempt.failed) {
          next.work.close();
          open.remove(next);
        }
      }
    } finally {
      open.forEach(each -> each.work.close());
    }
  }

  private void end(
      SimulatedActors.Actor actor, Attempt attempt, Supplier<Optional<Committed>> work) {
    attempt.running = true;
    try {
      Optional<Committed> committed = work.get();
      if (committed.isPresent()) {
        attempt.entry = committed.map(Simulation::entry);
        actor.tell(attempt.id + " committed " + attempt.entry + " " + attempt.seen);
      }
    } catch (UnknownOutcomeException e) {
      resolve(actor, attempt, e);
    } catch (ExpiredException e) {
      actor.tell(attempt.id + " missed something: " + e.getMessage());
      checkMayMiss(store, e, attempt.start);
      attempt.failed = true;
    } catch (WrongLakeException e) {
      attempt.failed = true;
      throw e;
    } catch (StoreException | ConflictException | CancelledException e) {
      actor.tell(attempt.id + " failed: " + e.getMessage());
      attempt.failed = true;
    } catch (EndedException e) {
      assertThat(e).hasCauseInstanceOf(KeyExistsException.class);
      actor.tell(attempt.id + " ended: " + e.getMessage());
      attempt.failed = true;
    } catch (InvalidInputException e) {
      boolean isGoneWithALine =
          store.line() > 0 && e.getMessage().contains("which is not there in");
      if (!isGoneWithALine) { // rows that were staged before a copy was put back
        assertThat(e.getMessage()).containsAnyOf("breaks the check", "cannot be added to table");
      }
      actor.tell(attempt.id + " was refused: " + e.getMessage());
      attempt.failed = true;
    } finally {
      attempt.running = false;
    }
  }

  private static long entry(Committed committed) {
    return committed.commit().entry();
  }

  private void resolve(SimulatedActors.Actor actor, Attempt attempt, UnknownOutcomeException e) {
    actor.tell(attempt.id + " does not know");
    for (int tries = 0; tries < 3 && random.nextInt(4) > 0; tries++) {
      try {
        attempt.entry = Optional.of(entry(e.attempt().run()));
        actor.tell(attempt.id + " committed " + attempt.entry + " after all");
        return;
      } catch (UnknownOutcomeException again) {
        actor.step();
      } catch (StoreException
          | ConflictException
          | InvalidInputException
          | ExpiredException
          | NotFoundException failed) {
        actor.tell(attempt.id + " failed after all: " + failed.getMessage());
        attempt.failed = true;
        return;
      } catch (WrongLakeException failed) {
        attempt.failed = true;
        throw failed;
      }
    }
  }

  /** A transaction that is done step by step. */
  private static final class Together {
    private final Attempt attempt;
    private final Transaction work;
    private int done;

    Together(LakeHandle lake, Attempt attempt) {
      this.attempt = attempt;
      this.work = begunElsewhere(lake, attempt.isolation);
      attempt.start = work.start().commit().entry();
    }

    boolean isDone() {
      return done == attempt.ops.size();
    }

    Optional<Committed> step() {
      try {
        SimulatedWork.Op op = attempt.ops.get(done);
        attempt.seen.add(op.run(name -> target(work.table(name), work)));
        done++;
      } catch (KeyExistsException e) {
        throw e; // of rows that were added before, which ends it
      } catch (InvalidInputException e) {
        assertThat(e).hasMessageContaining("breaks the check");
        attempt.ops.remove(done); // the transaction goes on without it
      }
      return Optional.empty();
    }

    /** A thread begins one transaction at a time, but they may be handed on. */
    private static Transaction begunElsewhere(LakeHandle lake, Isolation isolation) {
      FutureTask<Transaction> begun = new FutureTask<>(() -> lake.begin(isolation));
      new Thread(begun).start();
      try {
        return begun.get();
      } catch (ExecutionException e) {
        if (e.getCause() instanceof Error error) {
          throw error;
        }
        throw (RuntimeException) e.getCause();
      } catch (InterruptedException e) {
        throw new AssertionError(e);
      }
    }

    Optional<Committed> commit() {
      if (attempt.id.hashCode() % 4 == 0) {
        assertThat(work.conflict()).isNotNull(); // asking changes nothing, as the model will tell
      }
      return work.commit(attempt.id).committed();
    }

    Optional<Committed> toItsEnd() {
      try (work) {
        while (!isDone()) {
          step();
        }
        return commit();
      }
    }
  }

  private static SimulatedWork.Target target(TransactionTable table, Transaction work) {
    return new SimulatedWork.Target(
        table::scan,
        table::delete,
        table::update,
        table::merge,
        table::rewrite,
        table::alter,
        table::rewind,
        () -> work.start().table(table.name()).version(),
        Optional.empty(),
        change -> work.apply(change.apply(work.start())),
        rows -> table.change("update", ChangeStyle.BY_SHARE, false, rows),
        // A transaction has no choice: it fails as a whole.
        (rows, skipsRejected, refused) -> add(rows, table::addRow, refused));
  }

  /** Adds row after row, and goes on when one is refused. */
  private static void add(List<Row> rows, Consumer<Row> target, Consumer<Row> refused) {
    for (Row row : rows) {
      try {
        target.accept(row);
      } catch (InvalidInputException e) {
        refused.accept(row);
      }
    }
  }

  /** Now and then somebody cancels what is done by a handle, after it has asked some times. */
  private LakeHandle perhapsCancelled(LakeHandle lake) {
    if (random.nextInt(8) > 0) {
      return lake;
    }
    int[] asks = {random.nextInt(40)};
    return lake.watchedBy(
        new ProgressMonitor() {
          @Override
          public boolean isCancelled() {
            return asks[0]-- <= 0;
          }
        });
  }

  private Optional<Committed> alone(Lake lake, Attempt attempt) {
    LakeHandle noted = lake.noting(attempt.id);
    if (attempt.ops.isEmpty()) {
      attempt.ops.add(new SimulatedAppearance(random.nextInt(3)));
      attempt.seen.add(((SimulatedAppearance) attempt.ops.get(0)).run(noted));
      return Optional.empty();
    }
    boolean isOneCall =
        !(attempt.ops.get(0) instanceof SimulatedForms.FromElsewhere
            || attempt.ops.get(0) instanceof SimulatedForms.Staged);
    LakeHandle used = isOneCall ? perhapsCancelled(noted) : noted;
    long before = lake.now().commit().entry();
    attempt.start = before;
    Committed[] committed = {null};
    SimulatedWork.Remote remote = new SimulatedWork.Remote(used, stores.get(lake));
    attempt.seen.add(attempt.ops.get(0).run(name -> target(used.table(name), remote, committed)));
    // What was committed is found again by its note.
    return Optional.ofNullable(committed[0]);
  }

  private static SimulatedWork.Target target(
      Table table, SimulatedWork.Remote remote, Committed[] committed) {
    return new SimulatedWork.Target(
        table::scan,
        table::delete,
        table::update,
        table::merge,
        table::rewrite,
        table::alter,
        table::rewind,
        () -> table.now().version(),
        Optional.of(remote),
        change -> {
          StagedChange staged = change.apply(remote.lake().now());
          remote.lake().apply(staged);
          SimulatedForms.applyAgain(remote.lake(), staged);
        },
        rows -> {},
        (rows, skipsRejected, refused) -> {
          try (Append append = table.append(r -> skipsRejected ? r.skippingRejected() : r)) {
            add(rows, append::addRow, refused);
            committed[0] = append.commit().committed().orElseThrow();
          }
        });
  }

  /** What somebody needs who started at the horizon or after it is there. */
  static void checkMayMiss(ObjectStore store, ExpiredException missed, long start) {
    boolean isAskedFor =
        missed.version().isPresent() && !(missed.getCause() instanceof DamagedException);
    if (!isAskedFor && start > 0) {
      try (LakeCore core =
          LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(0)))) {
        assertThat(core.newestSeen().page().upkeep().horizon())
            .as("the horizon when one who started at %d missed: %s", start, missed.getMessage())
            .isGreaterThan(start);
      }
    }
  }
}
