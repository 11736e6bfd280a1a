package org.ysteron;

import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.option.LayoutPlan;
import org.ysteron.store.StoreException;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;

/** Operations of a simulation on files, forms and versions, and those that others prepare. */
final class SimulatedForms {
  private SimulatedForms() {}

  /**
   * Makes an earlier version current again, unless its transaction has changed the table before.
   */
  @SuppressWarnings("ArrayRecordComponent") // which version it was, as it turned out
  record Back(String table, int by, long[] version) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      SimulatedWork.Target target = tables.table(table);
      long now = target.version().getAsLong();
      version[0] = Math.max(0, now - by);
      if (version[0] == now) {
        version[0] = -1;
        return "not rewound";
      }
      try {
        target.rewind().get().to(version[0]).run();
        return "rewound to " + version[0];
      } catch (InvalidInputException e) {
        if (!e.getMessage().contains("already changed in this transaction")) {
          throw e;
        }
        version[0] = -1;
        return "not rewound";
      }
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      if (version[0] < 0) {
        return "not rewound";
      }
      state.tables.put(table, new TreeMap<>(state.versions.get(table).get(version[0])));
      return "rewound to " + version[0];
    }
  }

  /** Packs some files, whichever they are, together with others. */
  record Pack(String table, int salt, int share) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      tables
          .table(table)
          .rewrite()
          .get()
          .among(file -> (file.numbers().number() * 31 + salt) % 4 < share)
          .run();
      return "";
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      return "";
    }
  }

  /** Moves files that may hold some keys to the newest layout. */
  record Restore(String table, int low, int high) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      tables.table(table).rewrite().get().where(SimulatedWork.between(low, high)).run();
      return "";
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      return "";
    }
  }

  /** Adds a column and sets a layout. */
  record Change(String table, int fresh, LayoutPlan plan) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      tables
          .table(table)
          .alter()
          .get()
          .add(
              Field.of("d" + fresh, Types.INTEGER)
                  .withDefault(Computed.later((int) SimulatedEvolution.DEFAULT)))
          .layout(plan)
          .run();
      return "";
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      return "";
    }
  }

  /**
   * Removes rows that tasks have found and adds others that were staged, in one staged change; only
   * where there is a lake to apply it to, not in a transaction.
   */
  @SuppressWarnings("ArrayRecordComponent") // whether it was done, as it turned out
  record FromElsewhere(String table, int low, int high, int fresh, boolean[] done)
      implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      SimulatedWork.Target target = tables.table(table);
      done[0] = target.remote().isPresent();
      return target.remote().map(this::apply).orElse("not done");
    }

    private String apply(SimulatedWork.Remote remote) {
      LakeView pinned = remote.lake().now();
      TableView view = pinned.table(table);
      Condition condition = SimulatedWork.between(low, high);
      StagedChange stagedChange =
          pinned.stagedChange().reading(remote.lake().table(table).id(), condition, view.schema());
      int removed = 0;
      for (ScanTask task : view.scan().where(condition).tasks()) {
        try (Results<LocatedBatch> batches = task.read(remote.store())) {
          for (LocatedBatch batch : batches) {
            stagedChange = stagedChange.removing(task, batch.positions());
            removed += batch.positions().length;
          }
        }
      }
      try (RowWriter writer = pinned.writeTask(table).open(remote.store(), 0)) {
        for (int k = fresh; k < fresh + 2; k++) {
          writer.addRow(Row.of(SimulatedWork.SCHEMA.struct(), k, (long) k));
        }
        stagedChange = stagedChange.adding(writer.finish());
      }
      remote.lake().apply(StagedChange.of(stagedChange.toBytes()));
      applyAgain(remote.lake(), stagedChange);
      return "removed " + removed;
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      if (!done[0]) {
        return "not done";
      }
      var range = state.rows(table).subMap(low, high + 1);
      int removed = range.size();
      range.clear();
      for (int k = fresh; k < fresh + 2; k++) {
        state.rows(table).put(k, new SimulatedWork.Held(ids.next(), k));
      }
      return "removed " + removed;
    }
  }

  /** Applies once more what is done, which does nothing. */
  static void applyAgain(LakeHandle lake, StagedChange stagedChange) {
    try {
      if (lake.apply(stagedChange).isCommitted()) {
        throw new AssertionError("a staged change was applied twice: " + stagedChange.id());
      }
    } catch (StoreException | ExpiredException e) {
      // it has happened, whatever the store says of what does nothing
    }
  }

  /**
   * Gives rows other values in new forms that were staged, or removes them by a condition; in a
   * transaction new forms are those of a statement that finds rows by itself.
   */
  record Staged(String table, int low, int high, boolean updated) implements SimulatedWork.Op {
    @Override
    public String run(SimulatedWork.Tables tables) {
      SimulatedWork.Target target = tables.table(table);
      Condition condition = SimulatedWork.between(low, high);
      if (updated && target.remote().isEmpty()) {
        target.located().accept(rows -> StagedWork.update(rows, condition, "v", k -> 1000L + k));
        return "";
      }
      target
          .staging()
          .accept(
              pinned ->
                  updated
                      ? StagedWork.updating(
                          pinned,
                          table,
                          target.remote().get().store(),
                          condition,
                          k -> true,
                          "v",
                          k -> 1000L + k)
                      : StagedWork.removing(pinned, table, condition));
      return "";
    }

    @Override
    public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
      var range = state.rows(table).subMap(low, high + 1);
      if (updated) {
        range.replaceAll((k, held) -> new SimulatedWork.Held(held.id(), 1000L + k));
      } else {
        range.clear();
      }
      return "";
    }
  }
}
