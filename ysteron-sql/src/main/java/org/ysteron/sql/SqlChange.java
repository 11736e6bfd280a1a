package org.ysteron.sql;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.Delete;
import org.ysteron.LakeView;
import org.ysteron.Transaction;
import org.ysteron.TransactionTable;
import org.ysteron.Update;
import org.ysteron.data.Batch;
import org.ysteron.data.RowSink;
import org.ysteron.data.SelectedBatch;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.change.PlannedChange;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;

/**
 * A parsed statement that changes rows.
 *
 * @param text in which it stands
 * @param schema where tables are whose names are given alone
 * @param sets what stands for the question marks; several sets where the statement takes rows
 */
record SqlChange(
    SqlNode statement, SqlText text, Optional<String> schema, List<List<@Nullable Object>> sets) {

  /** Carries it out in a transaction; when it fails, nothing of it is left. */
  WriteResult apply(Transaction transaction) {
    try {
      return changed(transaction);
    } catch (ComputeException e) {
      throw new InvalidInputException(
          "The statement cannot be computed: %s.".formatted(e.getMessage()), e);
    }
  }

  private WriteResult changed(Transaction transaction) {
    Instant now = Instant.now().truncatedTo(ChronoUnit.MICROS);
    LakeView lake = transaction.view();
    PlannedChange change =
        PlannedChange.of(lake, SqlNodes.copy(statement), text, schema, sets, now);
    Running running = SqlQuery.running(lake, now);
    TransactionTable table = transaction.table(change.table());
    if (change instanceof PlannedChange.Insert insert) {
      return table.adding(
          rows -> insert.rows().open(running).each(batch -> add(batch, insert, rows)));
    }
    if (change instanceof PlannedChange.Update update) {
      Update statement = table.update();
      statement = update.condition().map(statement::where).orElse(statement.all());
      for (Map.Entry<String, Expression> value : update.values().entrySet()) {
        statement = statement.set(value.getKey(), value.getValue());
      }
      return statement.run();
    }
    if (change instanceof PlannedChange.Delete delete) {
      Delete statement = table.delete();
      return delete.condition().map(statement::where).orElse(statement.all()).run();
    }
    if (change instanceof PlannedChange.Found found) {
      return table.change(
          found.operation(),
          ChangeStyle.BY_SHARE,
          found.bringsKeys(),
          rows -> new FoundChange(found.finding().rows(rows), rows, running).run());
    }
    return WriteResult.NOTHING;
  }

  private static void add(SelectedBatch rows, PlannedChange.Insert insert, RowSink table) {
    Batch dense = Selected.dense(rows);
    Batch typed = FoundChange.typed(dense.vectors(), dense.size(), insert.columns().columns());
    table.addBatch(typed);
  }
}
