package org.ysteron;

import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.option.Check;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;

/**
 * A table for dry runs: each statement reports what it would do to the newest version, or fails as
 * it would fail. Nothing is committed, and no file stays. Immutable.
 *
 * <pre>{@code
 * WriteResult would = table.dryRun().delete().where(old).run();
 * System.out.println(would.report().rowsDeleted());
 * }</pre>
 */
public final class DryRunTable extends EditableTable {
  private final EditableTable table;
  private final Supplier<StatementRunner> dryRuns;

  DryRunTable(EditableTable table, Supplier<StatementRunner> dryRuns) {
    this.table = table;
    this.dryRuns = dryRuns;
  }

  @Override
  StatementRunner statements() {
    return dryRuns.get();
  }

  @Override
  public String name() {
    return table.name();
  }

  @Override
  public Schema schema() {
    return table.schema();
  }

  @Override
  public TableSettings settings() {
    return table.settings();
  }

  @Override
  public List<Check> checks() {
    return table.checks();
  }

  @Override
  public LayoutPlan layout() {
    return table.layout();
  }

  @Override
  public Optional<Field> leftoversColumn() {
    return table.leftoversColumn();
  }

  @Override
  public Scan scan() {
    return table.scan();
  }
}
