package org.ysteron.internal.statement;

import java.util.List;
import java.util.Optional;
import org.ysteron.internal.filter.Filter;
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
    Touching touching = new Touching(table, style);
    Watch.Step step = table.context().watch().step("delete rows of files", Progress.Unit.FILES);
    selection.each(
        table.context(),
        table.draft(),
        filter,
        step,
        (file, rows) -> touching.touch(file, rows == null ? touching.live(file) : rows));
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
