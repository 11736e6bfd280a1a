package org.ysteron.change;

import java.util.List;
import java.util.Map;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.table.Alteration;
import org.ysteron.table.TableForm;

/**
 * Rows on their way into a table, whose columns may not be the table's. When the table grows by a
 * row, the files so far end and others begin. For one thread.
 */
public final class NamedRows {
  private final TableChange change;
  private final WriteRules rules;
  private TableWriter writer;
  private RowFitter fitter;
  private long before;
  private long given;
  private KeyExistsException met;

  /** Rows for a table, by some rules. */
  public NamedRows(TableChange change, WriteRules rules) {
    this.change = change;
    this.rules = rules;
    if (rules.leavesOut()) {
      change.setLeavesOut();
    }
    open();
  }

  private void open() {
    TableForm form = change.draft().form();
    writer = change.writer();
    int leftovers =
        form.leftoversColumn().map(column -> form.schema().columns().indexOf(column)).orElse(-1);
    fitter = new RowFitter(form.schema(), rules, leftovers);
  }

  /** The columns of the table now. */
  public Schema schema() {
    return change.draft().schema();
  }

  /** Rows added so far. */
  public long rows() {
    return before + writer.rows();
  }

  /** About the bytes of data files that the rows take so far. */
  public long bytes() {
    return writer.bytes();
  }

  /** Adds a row by all its values. */
  public void add(Object... values) {
    writer.countFrom(given++);
    writer.add(values);
  }

  /** Adds a batch, whose columns are the table's. */
  public void add(Batch batch) {
    writer.countFrom(given);
    writer.add(batch);
    given += batch.size();
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

  /** Adds a row by the members of a parsed JSON object. */
  public void add(Map<String, Object> members) {
    addNamed(members);
  }

  private void addNamed(Object row) {
    if (met != null) {
      throw ended();
    }
    given++;
    Object[] values = fitted(row); // which may begin another writer
    writer.countFrom(given - 1);
    writer.add(values);
  }

  private Object[] fitted(Object row) {
    try {
      RowFitter.Fitted fitted = fitter.fit(row);
      while (!fitted.growth().isEmpty()) {
        grow(fitted.growth());
        fitted = fitter.fit(row);
      }
      return fitted.values();
    } catch (InvalidInputException e) {
      throw new InvalidInputException(
          "Row %d: %s. Nothing was changed.".formatted(given, e.getMessage()), e);
    }
  }

  /** Alters the table first: when that is refused, the rows so far stay as they are. */
  private void grow(List<Alteration> alterations) {
    change.grow(alterations);
    try {
      finish();
    } catch (KeyExistsException e) {
      met = e;
      throw ended();
    }
    before += writer.rows();
    open();
  }

  /** Deletes what was written since the table grew last; the transaction does so with the rest. */
  public void giveUp() {
    writer.discard();
  }

  /** What is there to say once rows that were taken were refused. */
  private EndedException ended() {
    return new EndedException(
        "Rows that were added before cannot be in the table: %s".formatted(met.getMessage()), met);
  }

  /**
   * Hands the rows to the transaction; no others can be added.
   *
   * @throws KeyExistsException when other rows have their keys
   */
  public void finish() {
    if (met != null) {
      throw ended();
    }
    if (writer.rows() > 0) {
      change.append(writer);
    }
  }
}
