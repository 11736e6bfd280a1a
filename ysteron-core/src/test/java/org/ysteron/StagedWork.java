package org.ysteron;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.IntFunction;
import java.util.function.IntPredicate;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
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

  /** Gives the rows that match another value, in a statement that finds them by itself. */
  static void update(
      TransactionTable.LocatedRows rows,
      Condition condition,
      String column,
      IntFunction<Object> value) {
    Field set = rows.schema().columns().get(rows.schema().indexOf(column));
    Map<List<Long>, Object> found =
        new TreeMap<>(
            Comparator.comparing((List<Long> at) -> at.get(0)).thenComparing(at -> at.get(1)));
    try (Results<SelectedBatch> batches = rows.scan().where(condition).selectedBatches()) {
      for (SelectedBatch batch : batches) {
        for (int i = 0; i < batch.count(); i++) {
          Row row = batch.batch().row(batch.at(i));
          long file = row.getLong(rows.file().name());
          long position = row.getLong(rows.position().name());
          rows.update(file, position);
          found.put(List.of(file, position), value.apply(row.getInt("k")));
        }
      }
    }
    VectorBuilder files = new VectorBuilder(Types.BIGINT);
    VectorBuilder positions = new VectorBuilder(Types.BIGINT);
    VectorBuilder values = new VectorBuilder(set.type());
    found.forEach(
        (at, to) -> {
          files.add(at.get(0));
          positions.add(at.get(1));
          values.add(to);
        });
    Batch forms =
        new Batch(
            new Type.Struct(List.of(rows.file(), rows.position(), set)),
            found.size(),
            List.of(files.build(), positions.build(), values.build()));
    Iterator<Batch> once =
        found.isEmpty() ? List.<Batch>of().iterator() : List.of(forms).iterator();
    rows.values(new Results<>(() -> once.hasNext() ? once.next() : null, () -> {}));
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
