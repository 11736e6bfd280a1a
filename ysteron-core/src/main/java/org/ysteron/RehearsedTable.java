package org.ysteron;

import java.util.function.Supplier;
import org.ysteron.data.Schema;
import org.ysteron.internal.statement.StatementRunner;

/**
 * A table whose statements are done and undone: each says what it would do to the newest version,
 * and fails as it would fail, but nothing is committed and nothing stays. Immutable.
 *
 * <pre>{@code
 * WriteResult would = table.rehearsed().delete().where(old).run();
 * System.out.println(would.report().rowsDeleted());
 * }</pre>
 */
public final class RehearsedTable extends EditableTable {
  private final EditableTable table;
  private final Supplier<StatementRunner> rehearsals;

  RehearsedTable(EditableTable table, Supplier<StatementRunner> rehearsals) {
    this.table = table;
    this.rehearsals = rehearsals;
  }

  @Override
  StatementRunner statements() {
    return rehearsals.get();
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
