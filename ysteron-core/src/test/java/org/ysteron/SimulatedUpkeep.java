package org.ysteron;

import static org.ysteron.expr.Condition.column;

import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.Budget;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.StoreException;

/** Packs tables of a simulation beside those who write; nobody is to notice, nor is it to fail. */
final class SimulatedUpkeep {
  private final Random random;

  SimulatedUpkeep(Random random) {
    this.random = random;
  }

  /** A compaction of any kind. */
  static Compaction any(Random random, Table table) {
    Compaction compaction = table.compact();
    compaction = random.nextInt(4) > 0 ? compaction.full() : compaction;
    compaction = random.nextInt(3) == 0 ? compaction.renewing() : compaction;
    int low = random.nextInt(SimulatedWork.KEYS);
    compaction =
        random.nextInt(3) == 0 ? compaction.where(column("k").between(low, low + 5)) : compaction;
    return random.nextInt(4) == 0
        ? compaction.within(Budget.ALL.ofFiles(1 + random.nextInt(4)))
        : compaction;
  }

  /** Has a change done and undone; nothing of it is to be there. */
  static void dryRun(Random random, Table table) {
    EditableTable dry = table.dryRun();
    int low = random.nextInt(SimulatedWork.KEYS);
    Condition some = column("k").between(low, low + 5);
    switch (random.nextInt(5)) {
      case 0 -> dry.delete().where(some).run();
      case 1 -> dry.update().where(some).set("v", 77L).run();
      case 2 -> dry.rewrite().where(some).run();
      case 3 -> dry.rewind().to(0).run();
      default -> dry.alter().layout(SimulatedEvolution.plan(random)).run();
    }
  }

  /** A dry run may fail as its change would; packing and measuring may not. */
  private void dryRun(SimulatedActors.Actor actor, Table table) {
    try {
      dryRun(random, table);
      actor.tell("tried a change of " + table.name());
    } catch (ConflictException | InvalidInputException | ExpiredException e) {
      actor.tell("tried what would fail: " + e.getMessage());
    }
  }

  /** Packs one table, measures it, or tries a change of it. */
  void round(SimulatedActors.Actor actor, Lake lake) {
    String name = List.of("t.a", "t.a", "t.b", "t.n", SimulatedKeys.TABLE).get(random.nextInt(5));
    try {
      if (random.nextInt(5) == 0) {
        TableStatistics found = lake.table(name).measure();
        actor.tell("measured " + name + ", version " + found.version());
        return;
      }
      if (random.nextInt(5) == 0) {
        dryRun(actor, lake.table(name));
        return;
      }
      CompactionReport report = any(random, lake.table(name)).run();
      actor.tell("packed " + name + ": " + report.read() + " to " + report.written());
      if (!report.skipped().isEmpty()) {
        throw new AssertionError("left out " + report.skipped());
      }
      Set<Long> entries = new TreeSet<>();
      report.commits().forEach(commit -> entries.add(commit.commit().entry()));
      if (entries.size() != report.commits().size()) {
        throw new AssertionError("two commits in one entry");
      }
    } catch (UnknownOutcomeException | StoreException | NotFoundException e) {
      actor.tell("could not pack " + name + ": " + e.getMessage());
    }
  }
}
