package org.ysteron;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.option.Check;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;

/**
 * A table that can be read: the newest version of a {@link Table}, one version of it ({@link
 * TableView}), or a table as a transaction sees it ({@link TransactionTable}).
 */
public sealed interface ReadableTable permits EditableTable, TableView {

  /** The table's name. */
  String name();

  /** The columns. */
  Schema schema();

  /** The settings. */
  TableSettings settings();

  /** The check constraints: conditions that are false for no row. */
  List<Check> checks();

  /** How rows are laid out. */
  LayoutPlan layout();

  /** The column for values that the schema has no column for, if there is one. */
  Optional<Field> leftoversColumn();

  /** Starts a scan of the rows. */
  Scan scan();
}
