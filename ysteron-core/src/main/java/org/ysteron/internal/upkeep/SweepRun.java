package org.ysteron.internal.upkeep;

import java.time.Instant;
import java.time.temporal.TemporalAmount;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.copying.Copying;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.StartedObject;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.lake.WaitingFloor;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Budget;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.Retention;
import org.ysteron.report.Committed;
import org.ysteron.store.ObjectStore;

/**
 * Deletes what nothing needs any more, in an order of which every step is safe whoever is at work
 * beside it, and which may stop anywhere and be begun anew by anybody:
 *
 * <ol>
 *   <li>What is still needed of old entries and of old objects of pages is copied, when that frees
 *       much more than it costs, and the floor is set in the lake page.
 *   <li>A commit raises the horizon: whoever started before it cannot commit any more, and what
 *       later commits refer to the newest state refers to, or they have made themselves since.
 *   <li>A floor that was set before the horizon is carried out.
 *   <li>What is recorded as free since before the horizon is deleted; then what was named from
 *       where the last sweep ended up to the horizon and no kept version refers to, in a state
 *       after the horizon was set.
 *   <li>A commit takes the records out and says how far this came.
 * </ol>
 *
 * <p>No clock decides what is safe: one chooses the horizon. For one thread.
 */
public final class SweepRun {
  private static final int MOST_TRIES = 8;

  private final LakeCore core;
  private final CommitNote note;
  private final SweepChoice choice;
  private final long began = System.nanoTime();
  private final List<Committed> commits = new ArrayList<>();
  private long copied;

  /** Sweeps nothing yet. */
  public SweepRun(LakeCore core, CommitNote note, SweepChoice choice) {
    this.core = core;
    this.note = note;
    this.choice = choice;
  }

  /**
   * Sweeps.
   *
   * @throws org.ysteron.error.WrongLakeException when the lake is not the one that was opened
   * @throws org.ysteron.error.DamagedException when its newest entry is damaged; nothing was
   *     deleted then
   */
  public SweepReport run() {
    for (int tries = 1; ; tries++) {
      try {
        return once();
      } catch (ExpiredException | ConflictException e) {
        boolean isForGood = e instanceof ConflictException met && !met.isWorthAnotherTry();
        if (isForGood) {
          throw e;
        }
        if (tries == MOST_TRIES) {
          throw new ConflictException(
              ConflictException.Kind.TOO_MANY_RETRIES,
              "Other processes repeatedly removed what this sweep was reading. What it has deleted stays deleted; run it again later.");
        }
        core.pause(tries);
      }
    }
  }

  private SweepReport once() {
    LakeState first = core.refresh();
    core.checkStill(first); // another lake may have as many entries
    long wanted = wanted(first);
    Copying copying = new Copying(core, this::commit);
    try {
      copying.run(first, Math.min(wanted, first.number()), choice.raisesFloor(), choice.renewed());
    } finally {
      copied += copying.bytes();
    }
    raiseHorizon(wanted);
    LakeState state = core.refresh();
    Deletions deletions = new Deletions(core, state, choice.budget(), began, false);
    UpkeepState upkeep = state.page().upkeep();
    // Looking twice costs a walk through all names.
    List<ObjectStore.Unfinished> times = choice.isThorough() ? times() : List.of();
    LedgerTrim trim = new LedgerTrim(core, state);
    trim.write();
    trim.delete(deletions);
    Swept swept = sweep(state, deletions);
    deletions.flush();
    unfinished(upkeep.horizon(), times, deletions);
    boolean isWhole = !deletions.isSpent();
    if (!swept.records.isEmpty()
        || !swept.found.isEmpty()
        || (isWhole && upkeep.swept() < upkeep.horizon())) {
      done(swept, isWhole ? upkeep.horizon() : upkeep.swept());
    }
    return report(state, deletions, swept);
  }

  /**
   * Something that is still there from before an entry, which the state after a sweep does not
   * need; empty when the ledger begins behind it, and there is none.
   *
   * @param renewed the tables whose objects of pages were to go, too
   */
  public static Optional<String> leftFrom(LakeCore core, long entry, Set<UUID> renewed) {
    LakeState state = core.refresh();
    UpkeepState upkeep = state.page().upkeep();
    if (upkeep.floor() < entry || core.ledger().floor() < entry) {
      return Optional.of("entries of the ledger from before " + entry);
    }
    List<String> left = new ArrayList<>();
    core.ledger().eachBelow(entry, (number, name, bytes) -> !left.add(name));
    TreeCursor<FreeObject, ?> free = upkeep.freeTree(core.pages()).cursor();
    if (free.next() && free.value().entry() <= entry) {
      left.add(free.value().name());
    }
    List<String> directories = new ArrayList<>(List.of(PageHome.LAKE_DIRECTORY));
    renewed.forEach(table -> directories.add(PageHome.directory(table)));
    for (String directory : directories) {
      StartedObject.in(core.store(), directory, 0, entry)
          .forEach(object -> left.add(object.name()));
    }
    return left.stream().findFirst();
  }

  /** What would be swept now; what it would copy is not told, nor what that would let go of. */
  public SweepReport dryRun() {
    return core.ofNewest(this::dryRun);
  }

  private SweepReport dryRun(LakeState state) {
    long last = choice.isNow() ? state.number() + 1 : state.number();
    long wanted = wanted(state);
    long horizon = Math.max(state.page().upkeep().horizon(), Math.min(wanted, last));
    UpkeepState upkeep = state.page().upkeep().withHorizon(horizon);
    long floor = Math.min(wanted, state.number());
    // A floor that would be set now is carried out at once where nobody may finish what he began.
    if (choice.isNow() && Copying.setsFloor(core, state, floor, choice.raisesFloor())) {
      upkeep = upkeep.withFloor(new WaitingFloor(floor, state.number(), state.hash()));
    }
    LakeState then =
        new LakeState(
            state.entry(),
            state.headLength(),
            state.mustRead(),
            state.mustWrite(),
            state.page().with(upkeep),
            state.pageRef());
    Deletions deletions = new Deletions(core, then, Budget.ALL, began, true);
    new LedgerTrim(core, then).delete(deletions);
    return report(then, deletions, sweep(then, deletions));
  }

  private SweepReport report(LakeState state, Deletions deletions, Swept swept) {
    return new SweepReport(
        state.page().upkeep().horizon(),
        state.page().upkeep().floor(),
        deletions.deleted(),
        copied,
        swept.later,
        swept.foreign,
        commits,
        deletions.isSpent());
  }

  /** The entry from which on work may still be committed. */
  private long wanted(LakeState state) {
    if (choice.isNow()) {
      return Long.MAX_VALUE;
    }
    TemporalAmount after =
        choice
            .after()
            .orElseGet(() -> LakeSettings.stored(state.page().upkeep().settings()).sweepAfter());
    Instant since = Retention.before(core.time(), after);
    long last = state.page().lastEntryAt(since, state.entry(), core.pages());
    return new KnownTimes(state, core.pages(), core.time()).believedUpTo(last);
  }

  private void raiseHorizon(long wanted) {
    LakeState state = core.refresh();
    UpkeepState upkeep = state.page().upkeep();
    boolean isRaised =
        choice.isNow()
            ? hasWork(state, state.number() + 1)
            : wanted > upkeep.horizon() && hasWork(state, wanted);
    if (isRaised) {
      commit(new HorizonChange(() -> wanted));
    }
  }

  /** Whether a horizon at an entry would let something go, as far as names tell. */
  private boolean hasWork(LakeState state, long horizon) {
    UpkeepState upkeep = state.page().upkeep();
    return upkeep.swept() < Math.min(horizon, state.number())
        || upkeep.free().count() > 0
        || LedgerTrim.hasWork(core, state, Math.min(horizon, state.number() + 1));
  }

  private void commit(Change change, LakeState start) {
    commits.add(Retries.untilKnown(() -> core.commit(change, note, start)));
  }

  /** Commits what depends on nothing but the state it is applied to. */
  private void commit(Change change) {
    commits.add(Retries.untilKnown(() -> core.commit(change, note)));
  }

  // Deleting

  /** What came of deleting. */
  private static final class Swept {
    private final List<byte[]> records = new ArrayList<>();
    private final List<StartedObject> found = new ArrayList<>();
    private SweepReport.Amount later = SweepReport.Amount.NONE;
    private List<String> foreign = List.of();
  }

  private Swept sweep(LakeState state, Deletions deletions) {
    UpkeepState upkeep = state.page().upkeep();
    Swept swept = new Swept();
    Set<String> known = new HashSet<>();
    List<FreeObject> due = new ArrayList<>();
    TreeCursor<FreeObject, ?> free = upkeep.freeTree(core.pages()).cursor();
    while (free.next()) {
      FreeObject object = free.value();
      known.add(object.name());
      if (object.entry() < upkeep.horizon()) {
        due.add(object);
      } else {
        swept.later = swept.later.and(object.bytes());
      }
    }
    Set<String> needed = new NeededFiles(core, state).among(due);
    for (FreeObject object : due) {
      boolean isDone =
          needed.contains(object.name()) // it is recorded again when its last version expires
              || (object.isDirectory()
                  ? deleteAll(object, deletions)
                  : deleteOne(object, deletions));
      if (isDone) {
        swept.records.add(object.key());
      }
    }
    long from = choice.isThorough() ? 0 : upkeep.swept();
    if (from < upkeep.horizon()) {
      Strays strays = new Strays(core, state, from, upkeep.horizon());
      strays.each(
          stray -> {
            String directory = stray.name().substring(0, stray.name().lastIndexOf('/') + 1);
            if (known.contains(stray.name()) || known.contains(directory)) {
              return; // free since some commit, which may be after the horizon
            }
            if (stray.name().startsWith("data/") || state.number() <= upkeep.horizon()) {
              deletions.delete(stray.name(), SweepReport.Kind.STRAY, stray.bytes());
            } else {
              // Who started between the horizon and this state may have seen it needed.
              swept.found.add(stray);
              swept.later = swept.later.and(stray.bytes());
            }
          });
      for (ObjectStore.Child child : core.store().list("probe", "", Integer.MAX_VALUE)) {
        deletions.delete("probe/" + child.segment(), SweepReport.Kind.STRAY, child.size());
      }
      swept.foreign = strays.foreign();
    }
    return swept;
  }

  private static boolean deleteOne(FreeObject object, Deletions deletions) {
    return deletions.delete(object.name(), SweepReport.Kind.FREED, object.bytes());
  }

  /** All that a table had that was let go as a whole. */
  private boolean deleteAll(FreeObject object, Deletions deletions) {
    for (StartedObject each : object.inDirectory(core.store())) {
      if (!deletions.delete(each.name(), SweepReport.Kind.FREED, each.bytes())) {
        return false;
      }
    }
    return true;
  }

  /** The files by which a disk tells its time; those that stay are nobody's. */
  private List<ObjectStore.Unfinished> times() {
    return core.store().unfinished("").stream().filter(SweepRun::hasNoNumber).toList();
  }

  private static boolean hasNoNumber(ObjectStore.Unfinished unfinished) {
    return !unfinished.name().contains("/");
  }

  private void unfinished(long horizon, List<ObjectStore.Unfinished> before, Deletions deletions) {
    long floor = core.ledger().floor();
    for (ObjectStore.Unfinished unfinished : core.store().unfinished("")) {
      // The number of a floor says nothing of when it is made.
      long from = unfinished.name().startsWith("floor/") ? floor : horizon;
      boolean isDead =
          hasNoNumber(unfinished) ? before.contains(unfinished) : isBelow(unfinished.name(), from);
      if (isDead && !deletions.isSpent()) {
        deletions.discard(unfinished);
      }
    }
  }

  /** Whether the writer of an unfinished object started before the horizon. */
  private static boolean isBelow(String name, long horizon) {
    if (name.startsWith("ledger/")) {
      String path = name.substring("ledger/".length());
      return path.matches("([d-g]/)?[0-9]{3}(/[0-9]{3})+") && Numbering.ofPath(path) < horizon;
    }
    String last = name.substring(name.lastIndexOf('/') + 1);
    return name.startsWith("probe/")
        ? horizon > 0
        : Numbering.leading(last).orElse(Long.MAX_VALUE) < horizon;
  }

  /** Takes out records of what was deleted, and records what nothing refers to from now on. */
  private void done(Swept swept, long upTo) {
    commit(
        staging -> {
          List<Edit<FreeObject>> edits = new ArrayList<>();
          swept.records.forEach(key -> edits.add(Edit.remove(key)));
          for (StartedObject object : swept.found) {
            FreeObject free =
                FreeObject.of(staging.commit().entry(), object.name(), object.bytes());
            edits.add(Edit.put(free.key(), free));
          }
          staging.edit(
              LakeFeature.EXPIRY,
              (lake, own) -> {
                UpkeepState upkeep = lake.upkeep();
                return lake.with(
                    upkeep
                        .withSwept(Math.max(upkeep.swept(), upTo))
                        .withFree(edits, staging.pages(), own));
              });
        });
  }
}
