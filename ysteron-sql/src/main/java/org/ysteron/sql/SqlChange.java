package org.ysteron.sql;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.Delete;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.Transaction;
import org.ysteron.TransactionTable;
import org.ysteron.Update;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.option.Isolation;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.catalog.LakeTable;
import org.ysteron.sql.catalog.PlannedTable;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.plan.PlannedChange;

/**
 * A statement that changes rows.
 *
 * @param parameters what stands for the question marks
 */
record SqlChange(String text, List<@Nullable Object> parameters) {

  /** Carries it out in a commit of its own. */
  WriteResult run(LakeHandle lake) {
    try {
      return lake.because(text).runInTransaction(Isolation.SERIALIZABLE, this::apply);
    } catch (ComputeException e) {
      throw new InvalidInputException(
          "The statement cannot be computed: %s.".formatted(e.getMessage()), e);
    }
  }

  private void apply(Transaction transaction) {
    Instant now = Instant.now().truncatedTo(ChronoUnit.MICROS);
    LakeView lake = transaction.start();
    PlannedChange change =
        PlannedChange.of(lake, view -> noted(view, transaction), text, parameters, now);
    TransactionTable table = transaction.table(change.table());
    if (change instanceof PlannedChange.Insert insert) {
      insert.rows().open(SqlQuery.running(lake, now)).each(batch -> add(batch, insert, table));
    } else if (change instanceof PlannedChange.Update update) {
      Update statement = table.update();
      statement = update.condition().map(statement::where).orElse(statement.all());
      for (Map.Entry<String, Expression> value : update.values().entrySet()) {
        statement = statement.set(value.getKey(), value.getValue());
      }
      statement.run();
    } else if (change instanceof PlannedChange.Delete delete) {
      Delete statement = table.delete();
      delete.condition().map(statement::where).orElse(statement.all()).run();
    }
  }

  /** A table as a query of the transaction reads it, which notes what it has read. */
  private static PlannedTable noted(TableView view, Transaction transaction) {
    return new LakeTable(view, Optional.of(() -> transaction.table(view.name()).scan()));
  }

  private static void add(SelectedBatch rows, PlannedChange.Insert insert, TransactionTable table) {
    Batch dense = Selected.dense(rows);
    List<Vector> vectors = new ArrayList<>();
    boolean areSame = true;
    for (int c = 0; c < dense.vectors().size(); c++) {
      Type type = insert.columns().columns().get(c).type();
      vectors.add(of(dense.vectors().get(c), type));
      areSame &= vectors.get(c).type().equals(type);
    }
    if (areSame) {
      table.addBatch(new Batch(insert.columns().struct(), dense.size(), vectors));
      return;
    }
    for (Row row : dense.rows()) {
      table.add(row.values());
    }
  }

  /** A text as one of at most so many characters; the table tests that. */
  private static Vector of(Vector vector, Type type) {
    return vector instanceof Vector.OfBytes of && type.isText() && vector.type().isText()
        ? new Vector.OfBytes(
            type,
            of.size(),
            of.data(),
            of.starts(),
            of.lengths(),
            of.nulls(),
            of.words(),
            of.codes())
        : vector;
  }
}
