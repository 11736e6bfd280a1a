package org.ysteron.internal.compare;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.ysteron.data.Results;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.MadeBy;
import org.ysteron.history.RowOrigin;
import org.ysteron.history.RowStep;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;

/**
 * What happened to the rows that a condition selects, from the oldest version that is kept to the
 * newest. Each kept version is compared with the one before it; one that only moved rows is not
 * looked at. For one thread.
 */
public final class RowHistory {
  private final LakeCore core;
  private final TableHistory history;
  private final Condition condition;
  private final List<String> columns;
  private final Consumer<RowStep> steps;

  private RowHistory(
      LakeCore core,
      TableHistory history,
      Condition condition,
      List<String> columns,
      Consumer<RowStep> steps) {
    this.core = core;
    this.history = history;
    this.condition = condition;
    this.columns = columns;
    this.steps = steps;
  }

  /**
   * All steps, the oldest first.
   *
   * @param columns the columns to show, by path; empty for all
   */
  public static List<RowStep> of(
      LakeCore core, TableHistory history, Condition condition, List<String> columns) {
    List<RowStep> steps = new ArrayList<>();
    new RowHistory(core, history, condition, columns, steps::add).run();
    return steps;
  }

  private void run() {
    HistoryRecord before = null;
    for (HistoryRecord record : history.all()) {
      if (before == null) {
        begin(record);
      } else {
        boolean isNext = record.version() == before.version() + 1;
        if (!isNext || !record.marks().onlyMoved()) {
          step(before, record, isNext);
        }
      }
      before = record;
    }
  }

  /** Rows that the oldest version has were inserted by it or before it. */
  private void begin(HistoryRecord oldest) {
    VersionPage page = history.pageOf(oldest).readBy(history.newest());
    MadeBy at = new MadeBy(Optional.empty(), oldest.told(), oldest.version() == 0);
    try (Results<RowOrigin> rows = RowOrigins.of(core, history, page, condition, columns)) {
      rows.forEach(
          row ->
              steps.accept(
                  new RowStep(
                      at,
                      new ChangedRow(ChangeKind.INSERTED, row.serial(), null, row.row()),
                      false,
                      true)));
    }
  }

  private void step(HistoryRecord from, HistoryRecord to, boolean isNext) {
    VersionChanges all =
        VersionChanges.between(core, history.pageOf(from), history.pageOf(to))
            .of(history.newest(), columns);
    List<ChangedRow> selected = new ArrayList<>();
    try (Results<ChangedRow> rows = all.where(condition).rows()) {
      rows.forEach(selected::add);
    }
    Map<Long, ChangedRow> elsewhere = elsewhere(all, selected, from.nextSerial());
    MadeBy at = new MadeBy(isNext ? Optional.empty() : Optional.of(from.told()), to.told(), isNext);
    for (ChangedRow row : selected) {
      ChangedRow whole = elsewhere.getOrDefault(row.serial(), row);
      steps.accept(
          new RowStep(
              at, whole, row.kind() != ChangeKind.INSERTED, row.kind() != ChangeKind.DELETED));
    }
  }

  /** Of rows that the condition selects on one side only, those that are on the other one, too. */
  private static Map<Long, ChangedRow> elsewhere(
      VersionChanges all, List<ChangedRow> selected, long nextSerial) {
    long[] serials =
        selected.stream()
            .filter(row -> row.kind() != ChangeKind.UPDATED)
            .mapToLong(ChangedRow::serial)
            .filter(serial -> serial < nextSerial)
            .sorted()
            .toArray();
    Map<Long, ChangedRow> found = new HashMap<>();
    if (serials.length > 0) {
      VersionChanges some = all.among(serials[0], serials[serials.length - 1] + 1);
      try (Results<ChangedRow> rows = some.rows()) {
        for (ChangedRow row : rows) {
          if (row.kind() == ChangeKind.UPDATED) {
            found.put(row.serial(), row);
          }
        }
      }
    }
    return found;
  }
}
