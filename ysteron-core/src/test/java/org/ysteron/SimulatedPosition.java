package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.ConflictException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.ReaderPosition;
import org.ysteron.option.Isolation;
import org.ysteron.report.Position;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.StoreException;

/**
 * A reader of a simulation that keeps a copy of t.a by its changes alone. Several do it at once, by
 * one position: at each entry the copy is what t.a was at the version up to which it was read.
 */
final class SimulatedPosition {
  static final String TABLE = "t.copy";
  private static final String NAME = "copy";
  private static final Duration LIMIT = Duration.ofMillis(25);

  private final Random random;
  private final boolean erases;

  /** {@code erases}: whether rows may go from versions of t.a. */
  SimulatedPosition(Random random, boolean erases) {
    this.random = random;
    this.erases = erases;
  }

  static void make(Lake lake) {
    lake.createTable(TABLE, SimulatedWork.SCHEMA);
    lake.setPosition(NAME, Map.of("t.a", 0L), LIMIT);
  }

  void round(SimulatedActors.Actor actor, Lake lake) {
    Isolation isolation = random.nextBoolean() ? Isolation.SNAPSHOT : Isolation.SERIALIZABLE;
    try {
      if (random.nextInt(3) == 0) {
        try (Transaction work = lake.begin(isolation)) {
          follow(work);
          work.commit();
        }
      } else {
        lake.runInTransaction(isolation, this::follow);
      }
      actor.tell("copied the changes of t.a");
    } catch (ExpiredException e) {
      actor.tell("begins anew: " + e.getMessage());
      anew(actor, lake);
    } catch (ConflictException
        | EndedException
        | NotFoundException
        | UnknownOutcomeException
        | StoreException e) {
      actor.tell("could not copy changes: " + e.getMessage());
    }
  }

  private void follow(Transaction work) {
    ReaderPosition position = work.position(NAME);
    List<Object> gone = new ArrayList<>();
    Map<Integer, Long> come = new TreeMap<>();
    long before = 0;
    try (Results<ChangedRow> rows = position.changes("t.a").columns("k", "v").rows()) {
      for (ChangedRow row : rows) {
        if (row.before() != null) {
          gone.add(row.before().get("k"));
          before++;
        }
        if (row.after() != null) {
          Object k = row.after().get("k");
          if (erases) {
            gone.add(k);
          }
          assertThat(come.put((Integer) k, (Long) row.after().get("v"))).isNull();
        }
      }
    }
    TransactionTable copy = work.table(TABLE);
    if (!gone.isEmpty()) {
      long deleted = copy.delete().where(column("k").in(gone)).run().report().rowsDeleted();
      if (!erases) {
        assertThat(deleted).as("rows of the copy that had changed").isEqualTo(before);
      }
    }
    come.forEach(copy::add);
    position.move();
  }

  private void anew(SimulatedActors.Actor actor, Lake lake) {
    try {
      lake.runInTransaction(
          Isolation.SNAPSHOT,
          work -> {
            TransactionTable copy = work.table(TABLE);
            copy.delete().all().run();
            rows(work.start().table("t.a")).forEach(copy::add);
            work.setPosition(NAME, LIMIT, "t.a");
          });
    } catch (ConflictException
        | ExpiredException
        | NotFoundException
        | UnknownOutcomeException
        | StoreException e) {
      actor.tell("could not begin anew: " + e.getMessage());
    }
  }

  private static Map<Integer, Long> rows(TableView view) {
    Map<Integer, Long> rows = new TreeMap<>();
    for (Row row : view.scan().columns("k", "v").rows()) {
      assertThat(rows.put((Integer) row.get("k"), (Long) row.get("v"))).isNull();
    }
    return rows;
  }

  /** At an entry the copy is what the position says. */
  static void check(Lake lake, boolean mayLack) {
    List<Position> positions = lake.positions();
    if (positions.isEmpty() || positions.get(0).isMissed()) {
      return;
    }
    Position.OfTable read = positions.get(0).tables().get(0);
    Map<Integer, Long> copy = rows(lake.table(TABLE).now());
    Map<Integer, Long> source = rows(lake.table("t.a").at(read.version()));
    if (mayLack) {
      assertThat(copy).as("copy of version %d", read.version()).containsAllEntriesOf(source);
    } else {
      assertThat(copy).as("copy of version %d", read.version()).isEqualTo(source);
    }
  }
}
