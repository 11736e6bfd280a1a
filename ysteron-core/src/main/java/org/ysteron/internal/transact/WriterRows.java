package org.ysteron.internal.transact;

import java.util.List;
import java.util.function.Consumer;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.internal.write.RowDigest;
import org.ysteron.report.SkippedRows;

/**
 * The rows of one append of a named writer: digested as they are given, and handed on in the
 * table's columns. All of them are applied or none, so that one that is refused ends the append,
 * even if the caller goes on; unless those whose values do not fit are to be left out. For one
 * thread.
 */
public final class WriterRows {
  private final String table;
  private final Schema opened;
  private final Schema now;
  private final Consumer<Object[]> target;
  private final RowDigest digest = new RowDigest();
  private final boolean skipsRejected;
  private SkippedRows skipped = SkippedRows.NONE;
  private RuntimeException failure;
  private long given;

  /**
   * Rows for a table.
   *
   * @param opened the table's columns when the writer was opened
   * @param now its columns now
   * @param skipsRejected whether rows that the target refuses are left out
   * @param target takes each row by all values of now
   */
  public WriterRows(
      String table, Schema opened, Schema now, boolean skipsRejected, Consumer<Object[]> target) {
    this.skipsRejected = skipsRejected;
    this.table = table;
    this.opened = opened;
    this.now = now;
    this.target = target;
  }

  /** A row by the values of all columns: of those of now, or of those of then. */
  public void add(Object... values) {
    take(() -> byPosition(values));
  }

  /** A row by names; a column that it lacks gets its default, or null. */
  public void add(Row row) {
    take(() -> byName(row));
  }

  private void take(Runnable row) {
    throwFailure();
    given++;
    try {
      row.run();
    } catch (RuntimeException e) {
      failure = e;
      throw e;
    }
  }

  /** Throws what was refused, if anything was. */
  public void throwFailure() {
    if (failure != null) {
      throw failure;
    }
  }

  private void give(Object[] row) {
    try {
      target.accept(row);
    } catch (InvalidInputException e) {
      if (!skipsRejected) {
        throw e;
      }
      skipped = skipped.and(1, e.getMessage());
    }
  }

  /** The rows that were left out so far. */
  public SkippedRows skipped() {
    return skipped;
  }

  /** What all rows digest to, those left out included. */
  public String digest() {
    return digest.toText();
  }

  private void byPosition(Object[] values) {
    boolean same = ids(opened).equals(ids(now));
    if (!same && opened.columns().size() == now.columns().size()) {
      throw new InvalidInputException(
          "Row %d: the columns of table %s have changed since this writer was opened, so values by position are ambiguous. Nothing was changed; give rows by name, or open the writer again."
              .formatted(given, table));
    }
    if (same || values.length != opened.columns().size()) {
      digest(now.columns(), values);
      give(values);
      return;
    }
    digest(opened.columns(), values);
    Object[] all = defaults();
    for (int c = 0; c < values.length; c++) {
      int at = ids(now).indexOf(opened.columns().get(c).id());
      if (at < 0) {
        throw new InvalidInputException(
            "Row %d: column %s of table %s was dropped after this writer was opened. Nothing was changed; open the writer again and give rows without this column."
                .formatted(given, opened.columns().get(c).name(), table));
      }
      all[at] = values[c];
    }
    give(all);
  }

  private void byName(Row row) {
    Object[] values = new Object[now.columns().size()];
    Object[] all = defaults();
    for (int i = 0; i < row.fields().size(); i++) {
      int at = now.indexOf(row.fields().get(i).name());
      if (at < 0) {
        throw new RejectedRowException(
            given, "table %s has no column %s".formatted(table, row.fields().get(i).name()), null);
      }
      values[at] = row.get(i);
      all[at] = row.get(i);
    }
    digest(now.columns(), values);
    give(all);
  }

  private void digest(List<Field> fields, Object[] values) {
    if (values.length == fields.size()) { // else it is refused
      digest.add(fields, values);
    }
  }

  private Object[] defaults() {
    return now.columns().stream().map(Field::standard).toArray();
  }

  private static List<Integer> ids(Schema schema) {
    return schema.columns().stream().map(Field::id).toList();
  }
}
