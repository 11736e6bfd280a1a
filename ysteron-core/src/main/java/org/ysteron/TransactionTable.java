package org.ysteron;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.transact.NamedRows;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.Check;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;

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
    return new TableView(transaction.core(), change.draft());
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
