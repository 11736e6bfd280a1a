package org.ysteron.internal.statement;

import java.util.List;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.ChangeStyle;
import org.ysteron.report.ChangeReport;

/**
 * Deletes rows. A file whose ranges say that all of its rows go is dropped unread; of the others
 * only the columns that are tested are read.
 */
public final class RowDelete {
  private RowDelete() {}

  /** Deletes the selected rows in a transaction's table. */
  public static ChangeReport run(TableChange table, Selection selection, ChangeStyle style) {
    Touching touching = new Touching(table, style);
    Read read =
        selection.find(
            table,
            "delete rows of files",
            (file, rows) -> touching.touch(file, rows == null ? touching.live(file) : rows));
    selection.checkFound(table.name(), touching.rows());
    ChangeReport report = touching.report(touching.rows(), 0, touching.rows(), 0, List.of());
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
