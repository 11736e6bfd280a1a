package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.function.IntFunction;
import java.util.function.IntPredicate;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Condition;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;
import org.ysteron.task.WriteTask;

/** Updates of rows as workers do them that have only the store, for tests. */
final class StagedWork {
  private StagedWork() {}

  /**
   * Stages other values of a column for the rows that match and whose key passes a test; the rows
   * of other keys go.
   */
  static StagedChange updating(
      LakeView pinned,
      String table,
      ObjectStore store,
      Condition condition,
      IntPredicate isUpdated,
      String column,
      IntFunction<Object> value) {
    TableView view = pinned.table(table);
    StagedChange change = pinned.stagedChange().reading(view.page().id(), condition, view.schema());
    WriteTask write = WriteTask.of(pinned.writeTask(table).toBytes());
    try (RowWriter writer = write.openForChanges(store, 0)) {
      for (ScanTask task : pinned.table(table).scan().where(condition).tasks()) {
        try (Results<LocatedBatch> batches = ScanTask.of(task.toBytes()).read(store)) {
          for (LocatedBatch batch : batches) {
            change = change.removing(task, batch.positions());
            update(batch, isUpdated, column, value, writer);
          }
        }
      }
      StagedRows rows = StagedRows.of(writer.finish().toBytes());
      return rows.rows() == 0 ? change : change.adding(rows);
    }
  }

  /** Stages that all rows that match go, whichever they are. */
  static StagedChange removing(LakeView pinned, String table, Condition condition) {
    TableView view = pinned.table(table);
    return pinned.stagedChange().removing(view.page().id(), condition, view.schema());
  }

  private static void update(
      LocatedBatch located,
      IntPredicate isUpdated,
      String column,
      IntFunction<Object> value,
      RowWriter writer) {
    Batch rows = located.rows();
    for (int i = 0; i < rows.size(); i++) {
      int key = rows.row(i).getInt("k");
      if (isUpdated.test(key)) {
        List<Vector> values = new ArrayList<>();
        for (Field field : rows.columns().fields()) {
          VectorBuilder one = new VectorBuilder(field.type());
          one.add(field.name().equals(column) ? value.apply(key) : rows.row(i).get(field.name()));
          values.add(one.build());
        }
        writer.addChanged(new Batch(rows.columns(), 1, values), located.serials()[i]);
      }
    }
  }
}
