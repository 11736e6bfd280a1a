package org.ysteron;

import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.transact.NamedRows;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.transact.TableChange;

/**
 * A table within a transaction. A row or statement that is rejected changes nothing, and the
 * transaction continues; any other failure ends it. For one thread at a time.
 */
public final class TransactionTable extends EditableTable {
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

  /** Starts a scan of the table with the transaction's own changes. */
  @Override
  public Scan scan() {
    return transaction.inside(
        () -> {
          transaction.settle();
          return new Scan(change.context(), change.draft(), change::reads);
        });
  }

  private TransactionTable add(Consumer<NamedRows> row) {
    return transaction.inside(
        () -> {
          row.accept(transaction.rows(change));
          return this;
        });
  }

  /** Adds a row by the values of all columns, in their order. */
  public TransactionTable add(@Nullable Object... values) {
    return add(rows -> rows.add(values));
  }

  /** Adds a row by names; a column that it lacks gets its default, or null. */
  public TransactionTable addRow(Row row) {
    return add(rows -> rows.add(row));
  }

  /** Adds a row from a record, whose components are bound to the columns by name. */
  public TransactionTable addRecord(Record record) {
    return add(rows -> rows.add(record));
  }

  /** Adds rows by column. */
  public TransactionTable addBatch(Batch batch) {
    return add(rows -> rows.add(batch));
  }
}
