package org.ysteron;

import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Function;
import org.ysteron.commit.LakeCore;
import org.ysteron.data.Batch;
import org.ysteron.data.RecordBinding;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.drift.WriteRules;
import org.ysteron.statement.ChangeReport;
import org.ysteron.table.VersionPage;
import org.ysteron.transact.NamedRows;
import org.ysteron.transact.TableChange;

/**
 * A table as a transaction sees it. A row or a statement that is refused leaves nothing, and the
 * transaction goes on; any other failure ends it. For one thread at a time.
 */
public final class TransactionTable {
  private final Transaction transaction;
  private final TableChange change;
  private final Map<Class<?>, RecordBinding<?>> bindings = new HashMap<>();
  private long bound;
  private NamedRows rows;

  TransactionTable(Transaction transaction, TableChange change) {
    this.transaction = transaction;
    this.change = change;
  }

  TableChange change() {
    return change;
  }

  /** Puts rows that were added into the table's state. */
  void settle() {
    if (rows != null) {
      rows.finish();
      rows = null;
    }
  }

  /** Forgets rows that were added and not settled. */
  void giveUpRows() {
    if (rows != null) {
      rows.giveUp();
      rows = null;
    }
  }

  /** The columns. */
  public Schema schema() {
    return change.draft().schema();
  }

  /** Scans the table with the transaction's own changes. */
  public Scan scan() {
    return transaction.inside(
        () -> {
          ready();
          return new Scan(change.context(), change.draft(), change::reads);
        });
  }

  /** What was written, to any table, is read again, so it must be there. */
  private void ready() {
    transaction.settle();
    transaction.changes().awaitDurable();
  }

  private TransactionTable add(Consumer<NamedRows> row) {
    return transaction.inside(
        () -> {
          if (rows == null) {
            rows = new NamedRows(change, WriteRules.of(change.draft().settings()));
          }
          row.accept(rows);
          return this;
        });
  }

  /** Adds a row by the values of all columns, in their order. */
  public TransactionTable add(Object... values) {
    return add(writer -> writer.add(values));
  }

  /** Adds a row by names; a column that it lacks gets its default, or null. */
  public TransactionTable addRow(Row row) {
    return add(writer -> writer.add(row));
  }

  /** Adds a row from a record, whose components are bound to the columns by name. */
  public TransactionTable addRecord(Record record) {
    if (change.draft().schemaVersion() != bound) {
      bindings.clear();
      bound = change.draft().schemaVersion();
    }
    RecordBinding<?> binding =
        bindings.computeIfAbsent(
            record.getClass(),
            type -> RecordBinding.forWriting(record.getClass(), schema().struct()));
    return add(writer -> writer.add(binding.values(record)));
  }

  /** Adds rows by column. */
  public TransactionTable addBatch(Batch batch) {
    return add(writer -> writer.add(batch));
  }

  private StatementRunner runner() {
    return new Inside();
  }

  /** Starts a delete. */
  public Delete delete() {
    return new Delete(runner());
  }

  /** Starts an update. */
  public Update update() {
    return new Update(runner());
  }

  /** Starts a merge. */
  public Merge merge(MergeSource source) {
    return new Merge(runner(), source, "merge");
  }

  /** Starts a merge on the primary key that updates the rows there are and inserts the others. */
  public Merge upsert(MergeSource source) {
    return new Merge(runner(), source, "upsert")
        .matched(Merge.takeAll())
        .unmatched(Merge.takeAll());
  }

  /** Starts altering the columns, the constraints, the layout, the settings. */
  public Alter alter() {
    return new Alter(runner());
  }

  /** Starts moving rows to files of the newest layout. */
  public Rewrite rewrite() {
    return new Rewrite(runner());
  }

  /** Runs statements in the transaction; one that fails leaves nothing. */
  private final class Inside implements StatementRunner {
    @Override
    public VersionPage table() {
      return change.draft();
    }

    @Override
    public LakeCore core() {
      return transaction.core();
    }

    @Override
    public ChangeResult run(String note, Function<TableChange, ChangeReport> statement) {
      return transaction.inside(
          () -> {
            ready();
            ChangeReport report = transaction.changes().statement(change, statement);
            return new ChangeResult(report, Optional.empty());
          });
    }
  }
}
