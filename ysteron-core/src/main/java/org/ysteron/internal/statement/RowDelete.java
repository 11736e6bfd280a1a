package org.ysteron.internal.statement;

import java.util.List;
import java.util.Optional;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.option.ChangeStyle;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;

/**
 * Deletes rows. A file whose ranges say that all of its rows go is dropped unread; of the others
 * only the columns that are tested are read.
 */
public final class RowDelete {
  private RowDelete() {}

  /** Deletes the selected rows in a transaction's table. */
  public static ChangeReport run(TableChange table, Selection selection, ChangeStyle style) {
    Filter filter = selection.filter(table.draft(), table.context().pages());
    ScanPlan plan = new ScanPlan(table.draft(), filter, table.context());
    Touching touching = new Touching(table, style);
    Watch.Step step = table.context().watch().step("delete rows of files", Progress.Unit.FILES);
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent()) {
      if (selection.isWhole(task.get())) {
        touching.drop(task.get().entry());
      } else {
        touching.touch(
            task.get().entry(),
            selection.positions(table.context(), table.draft(), task.get(), filter));
      }
      step.add(1);
      task = plan.next();
    }
    selection.checkFound(table.name(), touching.rows());
    ChangeReport report = touching.report(touching.rows(), 0, touching.rows(), 0, List.of());
    Read read = new Read(filter, Optional.empty(), Read.Kind.CHANGED_ROWS);
    if (report.isNothing()) {
      table.readOnly(read);
      return report;
    }
    List<Read> reads = selection.isBySerial() ? List.of() : List.of(read);
    Effect effect = new Effect("delete", touching.moved(), touching.touches(), reads);
    table.take(effect, table.after(effect));
    return report;
  }
}
