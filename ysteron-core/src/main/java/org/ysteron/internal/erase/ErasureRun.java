package org.ysteron.internal.erase;

import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.ysteron.error.CancelledException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.ErasureRecord;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.text.Counted;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.upkeep.SweepChoice;
import org.ysteron.internal.upkeep.SweepRun;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.proof.ErasureReport;
import org.ysteron.proof.TableErase;

/**
 * Erases rows, in steps of which each may be the last before somebody goes on:
 *
 * <ol>
 *   <li>A commit opens the erasure, with a salted digest of the condition.
 *   <li>A commit takes the rows out of all versions ({@link ErasureChange}), and refuses who
 *       started before.
 *   <li>What is needed of old entries, and of old objects of pages of the tables concerned and of
 *       the lake, is copied; the floor goes above the commit that took the rows out; entries,
 *       objects of pages and data files from before go, and with them what nobody refers to.
 *   <li>All rows of all data files are read. When some are meant that came in the meantime, it goes
 *       on with step 2.
 *   <li>A commit takes the digest out; the floor goes above it; a commit closes the erasure.
 * </ol>
 *
 * <p>Immutable; a run is for one thread.
 */
public final class ErasureRun implements TableErase {
  private static final int MOST_ROUNDS = 5;
  private static final int MOST_TRIES = 20;
  private static final int SALT_BYTES = 16;

  private final LakeCore core;
  private final CommitNote note;
  private final UUID id;
  private final String name;
  private final ErasureChoice choice;

  /** Has erased nothing yet. */
  public ErasureRun(LakeCore core, CommitNote note, UUID id, String name, Condition condition) {
    this(
        core,
        note,
        id,
        name,
        new ErasureChoice(core.reading().fixed(condition), false, false, false));
  }

  private ErasureRun(LakeCore core, CommitNote note, UUID id, String name, ErasureChoice choice) {
    this.core = core;
    this.note = note;
    this.id = id;
    this.name = name;
    this.choice = choice;
  }

  @Override
  public TableErase includingBookmarks() {
    return new ErasureRun(core, note, id, name, choice.withHeld());
  }

  @Override
  public TableErase withAuthors() {
    return new ErasureRun(core, note, id, name, choice.withAuthors());
  }

  @Override
  public TableErase takingMissingAsNull() {
    return new ErasureRun(core, note, id, name, choice.withMissingAsNull());
  }

  @Override
  public ErasureReport dryRun() {
    LakeState state = core.refreshHere();
    Optional<ErasureRecord> open = unfinished(state);
    RowSearch search = search(false);
    if (search.rows() == 0 && open.isEmpty()) {
      throw nothing(search);
    }
    Losses losses = core.ofNewest(now -> allowed(search, now));
    return report(
        losses.files().size(),
        losses.rows(),
        losses.versions(),
        losses.bookmarks(),
        Optional.empty());
  }

  @Override
  public ErasureReport run(Consumer<ErasureReport> keeper) {
    LakeState before = core.refreshHere();
    Optional<ErasureRecord> open = unfinished(before);
    if (open.isPresent() && open.get().isEnding()) {
      boolean hasMore = search(false).rows() > 0;
      ErasureReport ended = end(before, open.get(), search(true), keeper, !hasMore);
      // Whose it was is not known any more; the rows that are meant now may be others.
      return hasMore ? run(keeper) : ended;
    }
    RowSearch search = search(false);
    if (open.isEmpty() && search.rows() == 0) {
      throw nothing(search);
    }
    RowSearch first = search;
    core.ofNewest(now -> allowed(first, now));
    ErasureRecord erasure = open.isPresent() ? open.get() : opened();
    String inTheWay = "";
    for (int round = 0; round < MOST_ROUNDS; round++) {
      if (erasure.cleared() == 0 || search.rows() > 0) {
        erasure = open.isPresent() || round > 0 ? cleared(erasure, search) : first(erasure, search);
      }
      purge(erasure.renewed());
      search = search(true);
      Optional<String> left = SweepRun.leftFrom(core, erasure.cleared(), erasure.renewed());
      if (search.rows() == 0 && left.isEmpty()) {
        return end(before, erasure, search, keeper, false);
      }
      inTheWay = left.orElse("rows that are added repeatedly");
    }
    throw notFinished(inTheWay);
  }

  private ConflictException notFinished(String left) {
    return new ConflictException(
        ConflictException.Kind.TOO_MANY_RETRIES,
        name,
        "The erasure of rows of table %s is not finished, because other processes keep or add what it deletes: %s. Run it again with the same condition when fewer processes are active."
            .formatted(name, left));
  }

  @Override
  public void giveUp() {
    ErasureRecord open =
        ofTable(core.refreshHere())
            .orElseThrow(
                () ->
                    new NotFoundException(
                        NotFoundException.Kind.ERASURE,
                        name,
                        "Table %s has no unfinished erasure.".formatted(name)));
    close(open);
  }

  // What is there

  private Optional<ErasureRecord> ofTable(LakeState state) {
    return state.page().upkeep().erasures(core.pages()).stream()
        .filter(open -> open.table().equals(id))
        .findFirst();
  }

  /**
   * The erasure that this is.
   *
   * @throws InvalidInputException when another one is under way
   */
  private Optional<ErasureRecord> unfinished(LakeState state) {
    for (ErasureRecord open : state.page().upkeep().erasures(core.pages())) {
      if (isOfNone(open, state)) {
        continue;
      }
      if (!open.table().equals(id)) {
        throw new InvalidInputException(
            "The erasure of rows of table %s that %s started on %s is not finished. Nothing was changed; run that erasure again first."
                .formatted(nameOf(open.table(), state), open.author(), open.time()));
      }
      if (!open.isEnding() && !open.digest().equals(digest(open.salt()))) {
        throw new InvalidInputException(
            "An erasure of other rows of table %s that %s started on %s is not finished. Nothing was changed; run it again with its own condition, or abandon it if the condition is lost."
                .formatted(name, open.author(), open.time()));
      }
      return Optional.of(open);
    }
    return Optional.empty();
  }

  /** Whether its table has expired as a whole, with all that was to be erased. */
  private boolean isOfNone(ErasureRecord open, LakeState state) {
    return state.page().table(open.table(), core.pages()).isEmpty();
  }

  private String nameOf(UUID table, LakeState state) {
    return state.page().table(table, core.pages()).map(TableListing::name).orElse("" + table);
  }

  private String digest(String salt) {
    String text = salt + choice.condition().simplified();
    return HexFormat.of().formatHex(Sha256.of(text.getBytes(StandardCharsets.UTF_8)));
  }

  private NotFoundException nothing(RowSearch search) {
    checkLacking(search);
    return new NotFoundException(
        NotFoundException.Kind.ROW,
        choice.condition().toString(),
        "No row in any kept version of table %s matches the condition (%s searched). Nothing was changed; check the condition."
            .formatted(name, Counted.of(search.filesSeen(), "data file")));
  }

  /** Searches all versions of now; anew where something was let go meanwhile. */
  private RowSearch search(boolean isThorough) {
    LakeState state = core.refreshHere();
    RowSearch search = new RowSearch(core, id, name, state, choice, isThorough);
    for (int tries = 1; ; tries++) {
      try {
        search.look(state);
        return search;
      } catch (ExpiredException | DamagedException e) {
        LakeState later = core.refreshHere();
        if (later.number() == state.number() || tries == MOST_TRIES) {
          throw e;
        }
        state = later;
      }
    }
  }

  /**
   * Which versions of a state lose rows.
   *
   * @throws InvalidInputException when that is not allowed
   */
  private Losses allowed(RowSearch search, LakeState state) {
    if (!search.named().isEmpty()) {
      throw new InvalidInputException(
          "The definition of table %s contains values of the rows to be erased: %s. Nothing was changed; alter the table to remove them, expire its earlier versions, and erase again."
              .formatted(name, String.join(", ", search.named())));
    }
    checkLacking(search);
    Losses losses = Losses.of(search, state, id, core.pages());
    if (!losses.bookmarks().isEmpty() && !choice.includesHeld()) {
      throw new InvalidInputException(
          "Bookmarks or readers' positions keep versions of table %s that contain rows to be erased: %s. Nothing was changed; drop or move the bookmarks, let the readers of the positions go on, or include these versions in the erasure. A reader is not told of rows that are erased before it was told of their deletion."
              .formatted(name, String.join(", ", losses.bookmarks())));
    }
    return losses;
  }

  /** Of rows that lack a column it cannot be told whether they are meant. */
  private void checkLacking(RowSearch search) {
    if (!search.lacking().isEmpty() && !choice.takesMissingAsNull()) {
      Map.Entry<String, List<Long>> lacking = search.lacking().entrySet().iterator().next();
      throw new InvalidInputException(
          "The condition cannot be evaluated in versions of table %s without column %s: %s. Nothing was changed; expire these versions, use another column, or treat the missing column as null."
              .formatted(
                  name,
                  lacking.getKey(),
                  lacking.getValue().stream()
                      .map(String::valueOf)
                      .collect(Collectors.joining(", "))));
    }
  }

  // Steps

  private void commit(Change change) {
    Retries.untilKnown(() -> core.commit(change, note));
  }

  private ErasureRecord opened() {
    byte[] salt = new byte[SALT_BYTES];
    new SecureRandom().nextBytes(salt);
    String text = HexFormat.of().formatHex(salt);
    UUID own = UUID.randomUUID();
    ErasureRecord[] made = new ErasureRecord[1];
    commit(
        staging -> {
          unfinished(staging.base())
              .ifPresent(
                  other -> {
                    throw new ConflictException(
                        ConflictException.Kind.TOO_MANY_RETRIES,
                        name,
                        "Another process has just started to erase the same rows of table %s. Nothing was changed; run it again to continue that erasure."
                            .formatted(name));
                  });
          made[0] =
              ErasureRecord.of(
                  own, id, text, digest(text), staging.commit(), staging.base().hash());
          staging.base().page().upkeep().erasures(core.pages()).stream()
              .filter(open -> isOfNone(open, staging.base()))
              .forEach(open -> stage(staging, Edit.remove(open.key())));
          stage(staging, Edit.put(made[0].key(), made[0]));
        });
    return made[0];
  }

  private static void stage(Staging staging, Edit<ErasureRecord> edit) {
    staging.edit(
        LakeFeature.ERASURE,
        (lake, own) -> lake.with(lake.upkeep().withErasure(edit, staging.pages(), own)));
  }

  /** Takes the rows out of all versions; an erasure that is cancelled before has not begun. */
  private ErasureRecord first(ErasureRecord erasure, RowSearch rows) {
    try {
      return cleared(erasure, rows);
    } catch (CancelledException e) {
      new ErasureRun(core.watchedBy(ProgressMonitor.NONE), note, id, name, choice).close(erasure);
      throw new CancelledException(-1);
    }
  }

  /** Takes the rows out of all versions. */
  private ErasureRecord cleared(ErasureRecord erasure, RowSearch rows) {
    for (int tries = 1; ; tries++) {
      LakeState start = core.refresh();
      ErasureChange change =
          new ErasureChange(
              core,
              erasure,
              rows,
              choice.redactsAuthors(),
              start.number(),
              state -> allowed(rows, state));
      try {
        Retries.untilKnown(() -> core.commit(change, note, start));
        return change.cleared();
      } catch (NothingToDo e) {
        change.discard();
        return now(erasure);
      } catch (CancelledException e) {
        change.discard();
        throw e;
      } catch (ConflictException e) {
        change.discard();
        if (!e.isWorthAnotherTry() || tries == MOST_TRIES) {
          throw e;
        }
        core.pause(tries);
      } catch (ExpiredException | DamagedException e) {
        change.discard();
        // What it had found may have been let go meanwhile, and deleted.
        boolean isStale = core.ofNewest(now -> rows.forgetGone(now) || !rows.hasSeen(now));
        if (!isStale || tries == MOST_TRIES) {
          throw e;
        }
      }
    }
  }

  /** An erasure with which somebody else went on. */
  private ErasureRecord now(ErasureRecord erasure) {
    return ofTable(core.refresh())
        .filter(open -> open.id().equals(erasure.id()))
        .orElseThrow(
            () ->
                new ConflictException(
                    ConflictException.Kind.TOO_MANY_RETRIES,
                    name,
                    "Another process has finished or abandoned this erasure of rows of table %s."
                        .formatted(name)));
  }

  /**
   * Lets go of everything from before the horizon that nothing needs.
   *
   * @param renewed tables of whose objects of pages none from before it stays
   */
  private void purge(Set<UUID> renewed) {
    SweepChoice all = SweepChoice.STANDARD.now().full();
    new SweepRun(core, note, all.raisingFloor().renewing(renewed)).run();
    new SweepRun(core, note, all).run(); // objects of pages that the first one found to be nobody's
  }

  private ErasureReport end(
      LakeState before,
      ErasureRecord erasure,
      RowSearch proof,
      Consumer<ErasureReport> keeper,
      boolean endsOnly) {
    ErasureRecord now = now(erasure);
    if (!now.isEnding()) {
      change(now, staging -> stage(staging, Edit.put(now.key(), now.withoutDigest())));
    }
    long last = core.refresh().number();
    new SweepRun(core, note, SweepChoice.STANDARD.now()).run(); // a horizon behind the digest
    purge(Set.of());
    Optional<String> left = SweepRun.leftFrom(core, last, Set.of());
    if (left.isPresent()) {
      throw notFinished(left.get());
    }
    LakeState after = core.refresh();
    ErasureRecord.Counts counts = now.counts();
    ErasureReport report =
        report(
            counts.files(),
            counts.rows(),
            counts.versions(),
            counts.bookmarks(),
            Optional.of(
                new ErasureReport.Done(
                    now.id(),
                    now.time(),
                    after.entry().time(),
                    now.author(),
                    counts.texts(),
                    pointBefore(now, before),
                    new ErasureReport.Point(after.number(), after.hash()),
                    new ErasureReport.Proof(
                        proof.filesSeen(), proof.rowsRead(), after.page().upkeep().floor()),
                    endsOnly)));
    keeper.accept(report);
    close(now);
    return report;
  }

  /** Earlier programs did not remember the hash. */
  private static ErasureReport.Point pointBefore(ErasureRecord erasure, LakeState run) {
    return erasure.before().isEmpty()
        ? new ErasureReport.Point(run.number(), run.hash())
        : new ErasureReport.Point(erasure.opened() - 1, erasure.before());
  }

  /** What somebody finishes later by a task from before is found by the next sweep of any kind. */
  private void close(ErasureRecord erasure) {
    change(
        erasure,
        staging -> {
          stage(staging, Edit.remove(erasure.key()));
          staging.edit(LakeFeature.ERASURE, (lake, own) -> lake.with(lake.upkeep().withSwept(0)));
        });
  }

  /** Changes what is known of an erasure, unless somebody else has closed it. */
  private void change(ErasureRecord erasure, Consumer<Staging> edit) {
    try {
      commit(
          staging -> {
            boolean isThere =
                staging.base().page().upkeep().erasures(core.pages()).stream()
                    .anyMatch(open -> open.id().equals(erasure.id()));
            if (!isThere) {
              throw new NothingToDo();
            }
            edit.accept(staging);
          });
    } catch (NothingToDo e) {
      return; // it is gone
    }
  }

  private ErasureReport report(
      long files,
      long rows,
      long versions,
      Set<String> bookmarks,
      Optional<ErasureReport.Done> done) {
    return new ErasureReport(
        core.newestSeen().lakeId(), name, id, files, rows, versions, List.copyOf(bookmarks), done);
  }
}
