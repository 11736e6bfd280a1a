package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.rows.Differing;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.ChangeStyle;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;

/**
 * Gives rows new values. The columns that are tested are read first; all columns are read of the
 * rows that pass only. A changed row keeps its serial. For one thread.
 */
public final class RowUpdate {
  private final TableChange table;
  private final Selection selection;
  private final List<Assignment> assignments;
  private final boolean onlyDifferent;
  private final Schema schema;
  private final Assignment[] ofColumn;
  private final Computation[] computed;
  private final Touching touching;
  private boolean newKeys;
  private TableWriter writer;
  private long matched;
  private long updated;

  /**
   * An update.
   *
   * @param onlyDifferent whether a row that has its new values already stays where it is
   */
  public RowUpdate(
      TableChange table,
      Selection selection,
      List<Assignment> assignments,
      ChangeStyle style,
      boolean onlyDifferent) {
    this.table = table;
    this.selection = selection;
    this.assignments = assignments;
    this.onlyDifferent = onlyDifferent;
    this.schema = table.draft().schema();
    this.ofColumn = new Assignment[schema.columns().size()];
    this.computed = new Computation[schema.columns().size()];
    this.touching = new Touching(table, style);
  }

  /** Runs it in the transaction. */
  public ChangeReport run() {
    bind();
    Filter filter = selection.filter(table.draft(), table.context().pages());
    Watch watch = table.context().watch();
    List<FilesScan.Part> found = new ArrayList<>();
    Map<FileEntry, RoaringBitmap> changed = new LinkedHashMap<>();
    selection.each(
        table.context(),
        table.draft(),
        filter,
        watch.step("find rows of files", Progress.Unit.FILES),
        (file, rows) -> {
          found.add(FilesScan.Part.of(table.draft(), file, rows));
          changed.put(file, new RoaringBitmap());
        });
    Watch.Step step = watch.step("update rows", Progress.Unit.ROWS);
    FilesScan.told(table.context(), found, schema)
        .each(
            rows -> {
              update(rows, changed.get(rows.file()));
              step.add(rows.size());
            });
    changed.forEach(touching::touch);
    selection.checkFound(table.name(), matched);
    List<StagedFile> files = writer == null ? List.of() : writer.finish();
    ChangeReport report = touching.report(matched, updated, 0, 0, files);
    Read read =
        new Read(
            filter, Optional.empty(), updated == matched ? Read.Kind.CHANGED_ROWS : Read.Kind.ROWS);
    if (report.isNothing()) {
      table.readOnly(read);
      return report;
    }
    List<StagedFile> all = new ArrayList<>(touching.moved());
    all.addAll(files);
    List<Read> reads = selection.isBySerial() ? List.of() : List.of(read);
    Effect effect = new Effect("update", all, touching.touches(), reads);
    table.take(effect, Optional.ofNullable(writer));
    return report;
  }

  private void bind() {
    if (assignments.isEmpty()) {
      throw new InvalidInputException("An update needs a column to set.");
    }
    for (Assignment assignment : assignments) {
      int at = assignment.position(schema);
      if (ofColumn[at] != null) {
        throw InvalidInputException.ofColumn(
            assignment.column(), "Column " + assignment.column() + " is set twice.");
      }
      assignment.check(schema.columns().get(at), schema);
      ofColumn[at] = assignment;
      if (assignment.expression().isPresent()) {
        computed[at] = assignment.computation(schema.columns().get(at), schema);
      }
      if (schema.key().contains(assignment.column())) {
        newKeys = true;
      }
    }
  }

  /** Writes the rows that are to change anew, and marks them. */
  private void update(FileRows read, RoaringBitmap changed) {
    Batch before = read.rows();
    Batch after = assigned(before);
    int[] different = new int[before.size()];
    int count = 0;
    for (int i = 0; i < before.size(); i++) {
      if (!onlyDifferent || differs(before, after, i)) {
        different[count++] = i;
        changed.add(read.position(i));
      }
    }
    matched += before.size();
    updated += count;
    if (count == 0) {
      return;
    }
    VectorBuilder serials = new VectorBuilder(Types.BIGINT);
    for (int i = 0; i < count; i++) {
      serials.add(table.lasting(read.serial(different[i])));
    }
    Batch written =
        count == after.size()
            ? after
            : Gather.rows(after, java.util.Arrays.copyOf(different, count));
    writer = writer == null ? table.updatingWriter(newKeys, table.context().now()) : writer;
    writer.addMoved(written, serials.build());
  }

  private Batch assigned(Batch before) {
    List<Vector> vectors = new ArrayList<>(before.vectors());
    VectorBuilder[] called = new VectorBuilder[ofColumn.length];
    boolean calls = false;
    for (int c = 0; c < ofColumn.length; c++) {
      if (computed[c] != null) {
        Field field = schema.columns().get(c);
        vectors.set(c, Assignment.computed(computed[c], before, field, schema));
      } else if (ofColumn[c] != null) {
        called[c] = new VectorBuilder(schema.columns().get(c).type());
        calls = true;
      }
    }
    for (int i = 0; calls && i < before.size(); i++) {
      call(before.row(i), called);
    }
    for (int c = 0; c < ofColumn.length; c++) {
      if (called[c] != null) {
        vectors.set(c, called[c].build());
      }
    }
    return new Batch(before.columns(), before.size(), vectors);
  }

  /** Asks functions for the values of a row, column by column. */
  private void call(Row row, VectorBuilder[] values) {
    for (int c = 0; c < ofColumn.length; c++) {
      if (values[c] != null) {
        Field field = schema.columns().get(c);
        values[c].add(Assignment.fit(ofColumn[c].value().apply(row), field, schema, row));
      }
    }
  }

  private boolean differs(Batch before, Batch after, int row) {
    for (int c = 0; c < ofColumn.length; c++) {
      if (ofColumn[c] != null
          && Differing.differ(before.vectors().get(c), row, after.vectors().get(c), row)) {
        return true;
      }
    }
    return false;
  }
}
