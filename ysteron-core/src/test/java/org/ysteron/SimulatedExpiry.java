package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Predicate;
import org.ysteron.data.Row;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.maintenance.Sweep;
import org.ysteron.option.Budget;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.proof.LakeCheck;
import org.ysteron.report.TableInfo;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * Bookmarks, expiry, copying and sweeping in a simulation, by several actors that may be stopped
 * anywhere. At the end everything that is kept must be what it was, and nothing else be left.
 */
final class SimulatedExpiry {
  private final Random random;

  /** By name, the version of t.a that a bookmark was acknowledged to name; unsure ones left out. */
  private final Map<String, Long> bookmarks = new TreeMap<>();

  private final Predicate<Lake> isOfNow;
  private int named;
  private int sweeping;

  /** {@code isOfNow}: whether no copy was put back since a lake was opened. */
  SimulatedExpiry(Random random, Predicate<Lake> isOfNow) {
    this.random = random;
    this.isOfNow = isOfNow;
  }

  /** What was bookmarked may be so no longer. */
  void forget() {
    bookmarks.clear();
  }

  static Retention any(Random random) {
    Retention rules = Retention.EVERYTHING.andNewest(1 + random.nextInt(5));
    return random.nextInt(3) == 0 ? rules.andFor(Duration.ofMillis(1 + random.nextInt(40))) : rules;
  }

  static Sweep any(Random random, Lake lake) {
    Sweep sweep = lake.sweep();
    sweep =
        random.nextInt(3) > 0
            ? sweep.now()
            : sweep.after(Duration.ofMillis(random.nextInt(60) + 1));
    sweep = random.nextInt(2) == 0 ? sweep.withEntries() : sweep;
    sweep = random.nextInt(4) == 0 ? sweep.full() : sweep;
    return random.nextInt(4) == 0 ? sweep.within(anyBudget(random)) : sweep;
  }

  /** Budgets that end inside of whatever is done. */
  private static Budget anyBudget(Random random) {
    return switch (random.nextInt(4)) {
      case 0 -> Budget.ALL.ofFiles(1 + random.nextInt(6));
      case 1 -> Budget.ALL.ofBytes(1L << random.nextInt(16));
      case 2 -> Budget.ALL.ofTime(Duration.ofNanos(1L << random.nextInt(26)));
      default -> Budget.ALL;
    };
  }

  /** What is due by settings, of which one is changed before. */
  private void upkeep(SimulatedActors.Actor actor, Lake lake) {
    switch (random.nextInt(4)) {
      case 0 -> lake.set(TableSettings.KEEP_NEWEST, random.nextInt(5));
      case 1 -> lake.set(TableSettings.KEEP_FOR, random.nextBoolean() ? "PT0.03S" : "");
      case 2 -> lake.set(TableSettings.KEEP_THINNED, random.nextBoolean() ? "hour PT1H" : "");
      default -> lake.set(LakeSettings.SWEEP_AFTER, "PT0.0%dS".formatted(1 + random.nextInt(9)));
    }
    if (random.nextInt(4) == 0) {
      lake.upkeep().dryRun();
      return;
    }
    sweeping++;
    try {
      actor.tell("kept up " + lake.upkeep().within(anyBudget(random)).run());
    } finally {
      sweeping--;
    }
  }

  void round(SimulatedActors.Actor actor, Lake lake) {
    try {
      switch (random.nextInt(11)) {
        case 9, 10 -> upkeep(actor, lake);
        case 8 -> look(actor, lake);
        case 0 -> bookmark(actor, lake);
        case 1 -> drop(actor, lake);
        case 2, 3 -> actor.tell("expired " + lake.expire().keeping(any(random)).run().versions());
        case 4 ->
            actor.tell(
                "expired of t.a "
                    + lake.table("t.a").expire().keeping(any(random)).run().versions());
        case 5 -> {
          lake.expire().keeping(any(random)).dryRun();
          any(random, lake).dryRun();
        }
        default -> sweep(actor, any(random, lake));
      }
    } catch (UnknownOutcomeException
        | StoreException
        | NotFoundException
        | ExpiredException
        | ConflictException e) {
      actor.tell("could not keep the lake: " + e.getMessage());
    }
  }

  /** Whoever else is at work, a check finds nothing wrong. */
  private void look(SimulatedActors.Actor actor, Lake lake) {
    CheckDepth depth = List.of(CheckDepth.values()).get(random.nextInt(4));
    LakeCheck check = lake.check().depth(depth);
    CheckReport report =
        (random.nextInt(3) == 0 ? check.within(Budget.ALL.ofFiles(2)) : check).run();
    actor.tell("checked " + depth + ": " + report.counts());
    if (isOfNow.test(lake)) {
      assertThat(report.findings()).isEmpty();
      if (random.nextInt(4) == 0) {
        assertThat(lake.mend().run().lost()).isEmpty();
      }
    }
  }

  private void sweep(SimulatedActors.Actor actor, Sweep sweep) {
    sweeping++;
    try {
      actor.tell("swept " + sweep.run());
    } finally {
      sweeping--;
    }
  }

  /** While a copy is put back nothing may sweep. */
  boolean isSweeping() {
    return sweeping > 0;
  }

  private void bookmark(SimulatedActors.Actor actor, Lake lake) {
    String name = "b" + ++named;
    if (random.nextInt(3) == 0) {
      Instant time = actor.clock().instant().minusMillis(random.nextInt(60));
      if (random.nextBoolean()) {
        lake.bookmark("l" + name);
      } else {
        lake.bookmark("l" + name, time);
      }
      actor.tell("bookmarked the lake");
      return;
    }
    Table table = lake.table("t.a");
    long version = Math.max(0, table.now().version() - random.nextInt(4));
    if (!bookmarks.isEmpty() && random.nextInt(3) == 0) {
      name = any();
      bookmarks.remove(name); // until it is known
      table.moveBookmark(name, version);
    } else {
      table.bookmark(name, version);
    }
    if (isOfNow.test(lake)) {
      bookmarks.put(name, version);
    }
    actor.tell(name + " names version " + version);
  }

  private String any() {
    return List.copyOf(bookmarks.keySet()).get(random.nextInt(bookmarks.size()));
  }

  private void drop(SimulatedActors.Actor actor, Lake lake) {
    if (!bookmarks.isEmpty()) {
      String name = any();
      bookmarks.remove(name); // whatever comes of it
      lake.dropBookmark(name);
      actor.tell("dropped " + name);
    }
  }

  /** Reads whatever is kept, and says by entry what the tables then had. */
  void check(ObjectStore store, List<SimulatedWork.State> states, KeptReader reader) {
    try (Lake lake = Simulation.openAlone(store)) {
      bookmarks.forEach(
          (name, version) ->
              assertThat(lake.table("t.a").atBookmark(name).version())
                  .as("the version that %s names", name)
                  .isEqualTo(version));
      lake.bookmarks().forEach(mark -> readable(lake, mark));
      for (String name : List.of("t.a", "t.b")) {
        lake.table(name)
            .history(Integer.MAX_VALUE)
            .forEach(
                version ->
                    reader.check(
                        name, lake.table(name).at(version.version()), version.commit().entry()));
      }
      for (int entry = 0; entry < states.size(); entry++) {
        checkEntry(lake, entry, reader);
      }
    }
  }

  private static void readable(Lake lake, org.ysteron.report.Bookmark mark) {
    if (mark.table().isEmpty()) {
      LakeView view = lake.atBookmark(mark.name());
      for (TableInfo table : view.tables()) {
        view.table(table.name()).scan().count();
      }
    } else if (mark.version().isPresent() && lake.findTable(mark.table().get()).isPresent()) {
      lake.table(mark.table().get()).at(mark.version().getAsLong()).scan().count();
    }
  }

  /** The lake as of an entry is right, or says that it has expired. */
  private static void checkEntry(Lake lake, long entry, KeptReader reader) {
    LakeView view;
    try {
      view = lake.atEntry(entry);
    } catch (ExpiredException e) {
      return;
    }
    for (String name : List.of("t.a", "t.b")) {
      try {
        view.findTable(name).ifPresent(table -> reader.check(name, table, entry));
      } catch (ExpiredException e) {
        assertThat(e).hasMessageContaining("xpired");
      }
    }
  }

  /** Compares rows with what they were. */
  interface KeptReader {
    void check(String table, TableView view, long entry);
  }

  /** Lets all go but the newest versions; nothing else may be left then. */
  static void checkNothingIsLeft(ObjectStore store) {
    try (Lake lake = Simulation.openAlone(store)) {
      lake.bookmarks().forEach(mark -> lake.dropBookmark(mark.name()));
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      lake.sweep().now().withEntries().run();
      lake.sweep().now().withEntries().full().run();
      List<String> needed = new ArrayList<>();
      List<TableInfo> tables = new ArrayList<>(lake.tables());
      for (TableInfo table : tables) {
        lake.table(table.name()).now().files().forEach(file -> needed.add(file.name()));
        for (Row row : lake.table(table.name()).scan().rows()) {
          assertThat(row).isNotNull();
        }
      }
      if (lake.droppedTables().isEmpty()) {
        assertThat(StoreContents.names(store, "data"))
            .as("data files that are left")
            .containsExactlyInAnyOrderElementsOf(needed);
      }
      assertThat(StoreContents.names(store, "ledger"))
          .as("entries that are left")
          .hasSizeLessThan(20);
      assertThat(StoreContents.names(store, "floor"))
          .filteredOn(name -> !name.startsWith("floor/restored"))
          .hasSizeLessThan(2);
      assertThat(store.unfinished("")).isEmpty();
    } catch (InvalidInputException e) {
      throw new AssertionError(e);
    }
  }
}
