package org.ysteron;

import java.util.function.Supplier;
import org.ysteron.data.Schema;
import org.ysteron.internal.statement.StatementRunner;

/**
 * A table whose statements are done and undone: each says what it would do to the newest version,
 * and fails as it would fail, but nothing is committed and nothing stays. Immutable.
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
  public Scan scan() {
    return table.scan();
  }
}
