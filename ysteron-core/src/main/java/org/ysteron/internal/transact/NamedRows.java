package org.ysteron.internal.transact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.drift.GrowingRows;
import org.ysteron.internal.drift.Growth;
import org.ysteron.internal.drift.RowFitter;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.rows.RecordBinding;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.write.RowChecker;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.Alteration;
import org.ysteron.option.WriteRules;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.Grown;

/**
 * Rows on their way into a table, whose columns may not be the table's. Rows that fit go straight
 * to files. From the first one on that needs the table to grow, all wait until the last one is
 * there; then the table grows once, and they are written. For one thread.
 */
public final class NamedRows implements AutoCloseable {
  private final TableChange change;
  private final WriteRules rules;
  private final List<TableWriter> before = new ArrayList<>();
  private TableWriter writer;
  private RowFitter fitter;
  private GrowingRows waiting;
  private RowChecker checker;
  private Grown grown = Grown.NOTHING;
  private ChangeReport report = ChangeReport.NOTHING;
  private long given;
  private final Instant now;
  private final Map<Class<?>, RecordBinding<?>> bindings = new HashMap<>();
  private long boundTo;

  /** Rows for a table, by some rules. */
  public NamedRows(TableChange change, WriteRules rules) {
    this.change = change;
    this.rules = rules;
    this.now = change.context().now();
    if (rules.skipsRejected()) {
      change.setSkipsRejected();
    }
    open();
  }

  private void open() {
    writer = change.writer(now);
    fitter = GrowingRows.fitter(change.draft().form(), rules);
  }

  /** The columns of the table as rows are taken now; it grows when they are finished. */
  public Schema schema() {
    return change.draft().schema();
  }

  /** Rows added so far. */
  public long rows() {
    long rows = writer.rows() + (waiting == null ? 0 : waiting.rows());
    for (TableWriter earlier : before) {
      rows += earlier.rows();
    }
    return rows;
  }

  /** About the bytes of data files that the rows take so far. */
  public long bytes() {
    return writer.bytes() + (waiting == null ? 0 : waiting.bytes());
  }

  /** The rows and the files that they take; known when they are finished. */
  public ChangeReport report() {
    return report;
  }

  /** How the table has grown by the rows; known when they are finished. */
  public Grown grown() {
    return grown;
  }

  /** Adds a row by all its values. */
  public void add(Object... values) {
    writer.countFrom(given);
    given++;
    if (waiting == null) {
      writer.add(values);
    } else {
      checker.countFrom(given);
      Row row = Row.of(schema().struct(), checker.test(values));
      waiting.add(given, row);
    }
  }

  /** Adds a batch, whose columns are the table's. */
  public void add(Batch batch) {
    if (waiting == null) {
      writer.countFrom(given);
      writer.add(batch);
      given += batch.size();
      return;
    }
    checker.countFrom(given);
    checker.check(batch);
    for (Row row : batch.rows()) {
      given++;
      waiting.add(given, row);
    }
  }

  /** Adds a row by names. */
  public void add(Row row) {
    if (rules.isPlain()) {
      writer.countFrom(given++);
      writer.add(row);
    } else {
      addNamed(row);
    }
  }

  /** Adds a row from a record, whose components are bound to the columns by name. */
  public void add(Record record) {
    if (change.draft().schemaVersion() != boundTo) {
      bindings.clear();
      boundTo = change.draft().schemaVersion();
    }
    RecordBinding<?> binding =
        bindings.computeIfAbsent(
            record.getClass(),
            type -> RecordBinding.forWriting(record.getClass(), schema().struct()));
    add(binding.values(record));
  }

  /** Adds a row by the members of a parsed JSON object. */
  public void add(Map<String, Object> members) {
    addNamed(members);
  }

  /** Adds a row of texts. */
  public void add(TextRow row) {
    addNamed(row);
  }

  private void addNamed(Object row) {
    given++;
    if (waiting == null) {
      RowFitter.Fitted fitted = GrowingRows.told(given, () -> fitter.fit(row));
      if (fitted.needsLeftovers()) {
        makeLeftovers();
        fitted = GrowingRows.told(given, () -> fitter.fit(row));
      }
      if (fitted.fits()) {
        writer.countFrom(given - 1);
        writer.add(fitted.values());
        return;
      }
      startWaiting();
    }
    waiting.add(given, row);
  }

  /** What is to be set aside needs a column first. */
  private void makeLeftovers() {
    TableForm form = change.draft().form();
    List<Alteration> alterations = GrowingRows.leftovers(form);
    change.grow(alterations);
    grown = Growth.grown(form, alterations, List.of());
    before.add(writer);
    open();
  }

  private void startWaiting() {
    TableForm form = change.draft().form();
    checker = new RowChecker(form, now);
    waiting =
        new GrowingRows(
            form,
            change.numbersNow(),
            change.draft().settings(),
            rules,
            change.workers().means().temporary(),
            checker.hasChecks() ? this::checks : null,
            new Defaults(now));
  }

  private GrowingRows.Target checks(TableForm form) {
    RowChecker checker = new RowChecker(form, now);
    return (number, values) -> {
      checker.countFrom(number);
      checker.test(values);
    };
  }

  /** Deletes what was written; the transaction does so with the rest. */
  public void giveUp() {
    writer.discard();
    before.forEach(TableWriter::discard);
    close();
  }

  /**
   * Hands the rows to the transaction; no others can be added.
   *
   * @throws org.ysteron.error.KeyExistsException when other rows have their keys
   * @throws InvalidInputException when a row does not fit any more after all of them are there
   */
  public void finish() {
    try (this) {
      List<TableWriter> writers = new ArrayList<>(before);
      writers.add(writer);
      if (waiting != null) {
        grown = waiting.grown();
        change.grow(waiting.alterations());
        TableWriter last = change.writer(now);
        writers.add(last);
        waiting.forEach(
            change.draft().form(), (number, values) -> write(last, number, values), this::misfit);
      }
      for (TableWriter each : writers) {
        if (each.rows() > 0) {
          change.append(each);
          report = report.and(StagedFile.inserted(each.rows(), each.written()));
        } else {
          each.close();
        }
      }
    }
  }

  private static void write(TableWriter last, long number, Object[] values) {
    last.countFrom(number - 1);
    last.add(values);
  }

  private void misfit(long number, InvalidInputException why) {
    if (!rules.skipsRejected()) {
      throw why;
    }
    change.skipBefore(why.getMessage());
  }

  @Override
  public void close() {
    if (waiting != null) {
      waiting.close();
    }
  }
}
