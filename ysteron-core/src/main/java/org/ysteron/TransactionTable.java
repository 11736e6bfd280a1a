package org.ysteron;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.statement.LocatedChange;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.transact.NamedRows;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Check;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.WriteResult;

/**
 * A table within a transaction. A row or statement that is rejected changes nothing, and the
 * transaction continues; any other failure ends it. For one thread at a time.
 */
public final class TransactionTable extends EditableTable implements RowSink {
  private final OpenTransaction transaction;
  private final TableChange change;

  TransactionTable(OpenTransaction transaction, TableChange change) {
    this.transaction = transaction;
    this.change = change;
  }

  TableChange change() {
    return change;
  }

  @Override
  StatementRunner statements() {
    return new StatementRunner.Inside(transaction, change);
  }

  @Override
  public String name() {
    return change.name();
  }

  @Override
  public Schema schema() {
    return change.draft().schema();
  }

  /** This table as of now, for what is asked of a version. */
  private TableView draft() {
    return draft(transaction, change);
  }

  /** A table as of now, as a version whose scans are reads of the transaction. */
  static TableView draft(OpenTransaction transaction, TableChange change) {
    return new TableView(
        transaction.core(), change.draft(), Optional.of(() -> scan(transaction, change)));
  }

  private static Scan scan(OpenTransaction transaction, TableChange change) {
    return transaction.inside(
        () -> {
          transaction.settle();
          return new Scan(change.context(), change.draft(), change::reads);
        });
  }

  @Override
  public TableSettings settings() {
    return draft().settings();
  }

  @Override
  public List<Check> checks() {
    return draft().checks();
  }

  @Override
  public LayoutPlan layout() {
    return draft().layout();
  }

  @Override
  public Optional<Field> leftoversColumn() {
    return draft().leftoversColumn();
  }

  /** Starts a scan of the table with the transaction's own changes. */
  @Override
  public Scan scan() {
    return scan(transaction, change);
  }

  /**
   * Runs a statement that adds rows. It must read nothing of this table while it adds.
   *
   * @param work adds them
   * @return what was added; when it fails, nothing was
   */
  public WriteResult adding(Consumer<RowSink> work) {
    return transaction.adding(change, () -> work.accept(this));
  }

  /**
   * Runs a statement that finds rows by itself, by a query for example.
   *
   * @param operation its word in the history
   * @param style how rows that are replaced or deleted go
   * @param newKeys whether it may insert rows, or change columns of the primary key
   * @param work finds the rows while the statement runs, and says what becomes of them
   * @return what was changed; when it fails, nothing was
   */
  public WriteResult change(
      String operation, ChangeStyle style, boolean newKeys, Consumer<LocatedRows> work) {
    return statements()
        .run(
            "",
            table -> {
              Instant now = table.context().now();
              LocatedRows rows =
                  new LocatedRows(table, new LocatedChange(table, operation, style, newKeys, now));
              work.accept(rows);
              return rows.change.finish(rows.forms);
            });
  }

  /**
   * The rows of a table in a statement, known by the number of their data file and the position in
   * it. For one thread.
   */
  public static final class LocatedRows {
    private final TableChange table;
    private final LocatedChange change;
    private Source<Batch> forms = Source.empty();

    private LocatedRows(TableChange table, LocatedChange change) {
      this.table = table;
      this.change = change;
    }

    /** The columns of the table. */
    public Schema schema() {
      return table.draft().schema();
    }

    /**
     * Starts a scan of the rows with two columns behind those of the table: {@link #file()} and
     * {@link #position()}. Only {@link Scan#selectedBatches()} has them.
     */
    public Scan scan() {
      return new Scan(table.context(), table.draft(), table::reads).located(change.located());
    }

    /** The column of a scan that tells the number of the data file. */
    public Field file() {
      return change.located().file();
    }

    /** The column of a scan that tells the position in the data file, from 0. */
    public Field position() {
      return change.located().position();
    }

    /** A row for messages: its key, or else its first columns. */
    public String told(long file, long position) {
      return change.told(file, position);
    }

    /** A row goes; returns false when something became of it before. */
    public boolean delete(long file, long position) {
      return change.delete(file, position);
    }

    /** A row gets new values; returns false when something became of it before. */
    public boolean update(long file, long position) {
      return change.update(file, position);
    }

    /**
     * The new values of all rows that get some.
     *
     * @param values ordered by file and position, which are their first two columns; the others are
     *     named and typed as the columns of the table that are set
     */
    public void values(Results<Batch> values) {
      forms =
          new Source<>() {
            @Override
            public Optional<Batch> next() {
              return values.next();
            }

            @Override
            public void close() {
              values.close();
            }
          };
    }

    /** Adds rows, in the columns of the table. */
    public void insert(Batch rows) {
      change.insert(rows);
    }
  }

  private TransactionTable add(Consumer<NamedRows> row) {
    return transaction.inside(
        () -> {
          row.accept(transaction.rows(change));
          return this;
        });
  }

  @Override
  public TransactionTable add(@Nullable Object... values) {
    return add(rows -> rows.add(values));
  }

  @Override
  public TransactionTable addRow(Row row) {
    return add(rows -> rows.add(row));
  }

  @Override
  public TransactionTable addRecord(Record record) {
    return add(rows -> rows.add(record));
  }

  @Override
  public TransactionTable addBatch(Batch batch) {
    return add(rows -> rows.add(batch));
  }

  @Override
  public TransactionTable addObject(Map<String, @Nullable Object> members) {
    return add(rows -> rows.add(members));
  }

  @Override
  public TransactionTable addText(TextRow row) {
    return add(rows -> rows.add(row));
  }
}
