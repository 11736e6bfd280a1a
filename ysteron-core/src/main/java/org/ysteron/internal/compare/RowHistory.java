package org.ysteron.internal.compare;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Consumer;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.MadeBy;
import org.ysteron.history.RowOrigin;
import org.ysteron.history.RowStep;
import org.ysteron.internal.changes.Side;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * What happened to the rows that a condition selects, from the oldest version that is kept to the
 * newest. Each kept version is compared with the one before it; one that only moved rows is not
 * looked at. Since all selected rows of the version before are known, rows that went are read only
 * where one of these does not come again. For one thread.
 */
public final class RowHistory {
  private final LakeCore core;
  private final TableHistory history;
  private final Condition condition;
  private final List<String> columns;
  private final Consumer<RowStep> steps;

  private final List<HistoryRecord> records;

  /** All versions are read in one form, so that values can be compared whenever they were read. */
  private final VersionPage form;

  /** The rows that are selected, by serial. */
  private final Map<Long, Row> known = new TreeMap<>();

  private RowHistory(
      LakeCore core,
      TableHistory history,
      Condition condition,
      List<String> columns,
      Consumer<RowStep> steps) {
    this.core = core;
    this.history = history;
    this.condition = core.reading().fixed(condition);
    this.columns = columns;
    this.steps = steps;
    this.records = history.all();
    this.form = ChangeSteps.wide(history.newest(), history, records);
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
    Watch.Step step = core.watch().step("compare versions", Progress.Unit.VERSIONS, records.size());
    for (HistoryRecord record : records) {
      step.add(1);
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
    VersionPage page = history.pageOf(oldest).readBy(form);
    MadeBy at = new MadeBy(Optional.empty(), oldest.told(), oldest.version() == 0);
    try (Results<RowOrigin> rows = RowOrigins.of(core, history, page, condition, columns)) {
      rows.forEach(
          row -> {
            known.put(row.serial(), row.row());
            steps.accept(
                new RowStep(
                    at,
                    new ChangedRow(ChangeKind.INSERTED, row.serial(), null, row.row()),
                    false,
                    true));
          });
    }
  }

  private void step(HistoryRecord from, HistoryRecord to, boolean isNext) {
    VersionChanges all =
        VersionChanges.between(core, history.pageOf(from), history.pageOf(to)).of(form, columns);
    List<ChangedRow> selected = selected(all.where(condition));
    if (selected.isEmpty()) {
      return;
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

  /** The selected rows that differ, and what is selected from then on. */
  private List<ChangedRow> selected(VersionChanges changes) {
    Side.Both sides = changes.sides();
    Schema columns = changes.schema();
    Map<Long, Row> came = rows(sides.later(), columns);
    List<ChangedRow> selected = new ArrayList<>();
    if (!came.keySet().containsAll(known.keySet()) && !sides.earlier().isEmpty()) {
      for (long serial : rows(sides.earlier(), columns).keySet()) {
        if (!came.containsKey(serial)) {
          selected.add(new ChangedRow(ChangeKind.DELETED, serial, known.remove(serial), null));
        }
      }
    }
    came.forEach(
        (serial, row) -> {
          Row old = known.put(serial, row);
          if (old == null) {
            selected.add(new ChangedRow(ChangeKind.INSERTED, serial, null, row));
          } else if (differ(old, row)) {
            selected.add(new ChangedRow(ChangeKind.UPDATED, serial, old, row));
          }
        });
    return selected;
  }

  /** In columns that both have: of two versions those are left out that one has dropped. */
  private static boolean differ(Row old, Row now) {
    Map<String, Object> values = new HashMap<>();
    for (int i = 0; i < old.fields().size(); i++) {
      values.put(old.fields().get(i).name(), old.get(i));
    }
    for (int i = 0; i < now.fields().size(); i++) {
      String name = now.fields().get(i).name();
      if (values.containsKey(name) && !Objects.deepEquals(values.get(name), now.get(i))) {
        return true;
      }
    }
    return false;
  }

  private static Map<Long, Row> rows(Side side, Schema columns) {
    Map<Long, Row> rows = new TreeMap<>();
    side.scan(columns)
        .each(
            read -> {
              Batch batch = read.rows();
              for (int i = 0; i < read.size(); i++) {
                rows.put(read.serial(i), batch.row(i));
              }
            });
    return rows;
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
