package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.ysteron.data.Row;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.option.LakeOptions;
import org.ysteron.proof.TableErase;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * Erases rows in a simulation, beside all others, stopped anywhere and gone on with. From the
 * commit on that takes them out no version is to have them, and all else is to be what it was.
 */
final class SimulatedErasure {
  private static final String WORD = "erase";

  private final Random random;
  private final List<Meant> tried = new ArrayList<>();
  private int erasing;

  SimulatedErasure(Random random) {
    this.random = random;
  }

  /** Which rows, as the notes of all commits of an erasure say here. */
  record Meant(String table, String column, int value) {
    static Optional<Meant> of(String note) {
      String[] words = note.split(" ", -1);
      return words.length == 4 && words[0].equals(WORD)
          ? Optional.of(new Meant(words[1], words[2], Integer.parseInt(words[3])))
          : Optional.empty();
    }

    Condition condition() {
      return column.equals("k")
          ? Condition.column("k").between(value, value + 1)
          : Condition.column("v").equalTo((long) value);
    }

    boolean isOf(int k, long v) {
      return column.equals("k") ? k == value || k == value + 1 : v == value;
    }

    String note() {
      return String.join(" ", WORD, table, column, String.valueOf(value));
    }
  }

  /** Some row of now, by its key or by its value; empty for none. */
  private Optional<Meant> any(Lake lake) {
    String table = random.nextInt(4) == 0 ? "t.b" : "t.a";
    List<Row> rows = new ArrayList<>();
    lake.table(table).scan().rows().forEach(rows::add);
    if (rows.isEmpty()) {
      return Optional.empty();
    }
    Row row = rows.get(random.nextInt(rows.size()));
    return Optional.of(
        random.nextInt(3) > 0 || row.get("v") == null
            ? new Meant(table, "k", (Integer) row.get("k") - random.nextInt(2))
            : new Meant(table, "v", ((Long) row.get("v")).intValue()));
  }

  /** While a copy is put back nothing may sweep, nor erase. */
  boolean isErasing() {
    return erasing > 0;
  }

  void round(SimulatedActors.Actor actor, Lake lake) {
    erasing++;
    try {
      eraseOne(actor, lake);
    } finally {
      erasing--;
    }
  }

  private void eraseOne(SimulatedActors.Actor actor, Lake lake) {
    for (int i = random.nextInt(200); i > 0; i--) {
      actor.step();
    }
    Optional<Meant> chosen = Optional.empty();
    try {
      List<LakeHealth.Erasure> open = lake.health().erasures();
      if (!open.isEmpty()) {
        assertThat(open).hasSize(1);
        goOn(actor, lake);
        return;
      }
      chosen = any(lake);
      if (chosen.isPresent()) {
        tried.add(chosen.get());
        if (random.nextInt(5) == 0) {
          actor.tell("would " + chosen.get() + ": " + erase(lake, chosen.get()).dryRun());
        }
        actor.tell("erased " + chosen.get() + ": " + erase(lake, chosen.get()).run());
      }
    } catch (NotFoundException
        | UnknownOutcomeException
        | StoreException
        | ConflictException
        | ExpiredException e) {
      actor.tell("could not erase " + chosen + ": " + e.getMessage());
    } catch (InvalidInputException e) {
      assertThat(e.getMessage()).containsAnyOf("contains values of the rows", "is not finished");
      actor.tell("was not to erase " + chosen + ": " + e.getMessage());
    }
  }

  private TableErase erase(Lake lake, Meant meant) {
    TableErase erase =
        lake.noting(meant.note())
            .table(meant.table())
            .erase(meant.condition())
            .includingBookmarks();
    return random.nextInt(4) == 0 ? erase.withAuthors() : erase;
  }

  /** Goes on with an erasure that somebody began, whose condition only he knows who began it. */
  private void goOn(SimulatedActors.Actor actor, Lake lake) {
    for (Meant meant : List.copyOf(tried)) {
      try {
        actor.tell("went on to erase " + meant + ": " + erase(lake, meant).run());
        return;
      } catch (InvalidInputException e) {
        assertThat(e.getMessage()).containsAnyOf("contains values of the rows", "is not finished");
      }
    }
  }

  /** Ends what was begun. */
  void finish(ObjectStore store) {
    try (Lake lake = Simulation.openAlone(store)) {
      while (!lake.health().erasures().isEmpty()) {
        LakeHealth.Erasure open = lake.health().erasures().get(0);
        if (tried.stream().noneMatch(meant -> isEnded(lake, meant))) {
          lake.table(open.table()).erase(Condition.all()).giveUp();
        }
      }
    }
  }

  private boolean isEnded(Lake lake, Meant meant) {
    try {
      erase(lake, meant).run();
      return true;
    } catch (InvalidInputException | NotFoundException e) {
      return false; // another one is open, or none
    }
  }

  /** Which rows an entry, the newest of a store, has taken out of all versions. */
  static Optional<Meant> doneBy(ObjectStore store, String note, long entry) {
    Optional<Meant> meant = Meant.of(note);
    if (meant.isEmpty()) {
      return meant;
    }
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(0)))) {
      return meant.filter(
          rows ->
              core.newestSeen().page().upkeep().erasures(core.pages()).stream()
                  .anyMatch(erasure -> erasure.cleared() == entry));
    }
  }
}
