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
    compaction = random.nextInt(4) > 0 ? compaction.thoroughly() : compaction;
    compaction = random.nextInt(3) == 0 ? compaction.renewing() : compaction;
    int low = random.nextInt(SimulatedWork.KEYS);
    compaction =
        random.nextInt(3) == 0 ? compaction.where(column("k").between(low, low + 5)) : compaction;
    return random.nextInt(4) == 0
        ? compaction.within(Budget.ALL.ofFiles(1 + random.nextInt(4)))
        : compaction;
  }

  /** Has a change done and undone; nothing of it is to be there. */
  static void rehearse(Random random, Table table) {
    EditableTable rehearsed = table.rehearsed();
    int low = random.nextInt(SimulatedWork.KEYS);
    Condition some = column("k").between(low, low + 5);
    switch (random.nextInt(5)) {
      case 0 -> rehearsed.delete().where(some).run();
      case 1 -> rehearsed.update().where(some).set("v", 77L).run();
      case 2 -> rehearsed.rewrite().where(some).run();
      case 3 -> rehearsed.rewind().to(0).run();
      default -> rehearsed.alter().layout(SimulatedEvolution.plan(random)).run();
    }
  }

  /** A rehearsal may fail as its change would; packing and measuring may not. */
  private void rehearse(SimulatedActors.Actor actor, Table table) {
    try {
      rehearse(random, table);
      actor.tell("rehearsed a change of " + table.name());
    } catch (ConflictException | InvalidInputException | ExpiredException e) {
      actor.tell("rehearsed what would fail: " + e.getMessage());
    }
  }

  /** Packs one table, measures it, or rehearses a change of it. */
  void round(SimulatedActors.Actor actor, Lake lake) {
    String name = List.of("t.a", "t.a", "t.b", "t.n", SimulatedKeys.TABLE).get(random.nextInt(5));
    try {
      if (random.nextInt(5) == 0) {
        TableStatistics found = lake.table(name).measure();
        actor.tell("measured " + name + ", version " + found.version());
        return;
      }
      if (random.nextInt(5) == 0) {
        rehearse(actor, lake.table(name));
        return;
      }
      CompactionReport report = any(random, lake.table(name)).run();
      actor.tell("packed " + name + ": " + report.read() + " to " + report.written());
      if (!report.leftOut().isEmpty()) {
        throw new AssertionError("left out " + report.leftOut());
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
